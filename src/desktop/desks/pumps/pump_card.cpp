#include "desks/pumps/pump_card.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QVBoxLayout>

#include "fields/keys.h"
#include "look/refused.h"
#include "look/words.h"
#include "network/setting.h"
#include "pump/cavitation.h"
#include "pump/data_sheet.h"
#include "quantity/format.h"
#include "quantity/parse.h"

namespace conduit::desktop {

PumpCard::PumpCard(Document& document, QWidget* parent)
    : SideCard("pump.card", tr("Pump card"), 316, parent), doc_(document) {
  name_ = addText("pump.name");
  story_ = addText("pump.story");
  suction_ = addText("pump.suction");
  fixes_ = addText("pump.mend");
  power_ = addText("pump.power");
  units_ = addText("pump.units");
  auto* line = new QHBoxLayout;
  holdWords_ = new QLabel(tr("Speed for"));
  hold_ = new QLineEdit;
  hold_->setObjectName("pump.hold");
  hold_->setAccessibleName(tr("Target of the speed"));
  hold_->setPlaceholderText(tr("4 bar at N-3, 12 L/s"));
  hold_->setFixedSize(150, 23);
  holdWords_->setBuddy(hold_);
  line->addWidget(holdWords_, 1);
  line->addWidget(hold_);
  rows_->addLayout(line);
  speeds_ = addText("pump.speeds");
  vapour_ = addText("pump.vapour");
  doubts_ = addText("pump.doubts");
  rows_->addStretch(1);
  texts_ = {name_, story_, suction_, fixes_, power_, units_, speeds_, vapour_, doubts_};
  connect(hold_, &QLineEdit::editingFinished, this, [this] {
    if (!hold_->isModified()) return;
    hold_->setModified(false);
    const bool sound = hold_->text().trimmed().isEmpty() || goal(doc_.network());
    markRefused(
        *hold_,
        sound ? QString() : tr("enter a pressure or flow with its unit, and a place: 4 bar at N-3, 12 L/s"));
    emit goalChanged();
  });
}

void PumpCard::setLook(const Look& look) {
  look_ = look;
  setStyleSheet(QString("#pump\\.card { border-left: 1px solid %1; }").arg(look_.hair.name()));
  display(result_);
}

std::optional<SpeedGoal> PumpCard::goal(const Network& network) const {
  QString words = hold_->text().trimmed();
  if (words.isEmpty()) return std::nullopt;
  SpeedGoal goal;
  if (const auto cut = words.indexOf(" at "); cut > 0) {
    goal.at = network.byName(words.mid(cut + 4).trimmed().toStdString());
    if (goal.at == noId || network.at(goal.at).part->ends != Ends::self) return std::nullopt;
    words = words.left(cut);
  }
  const Medium medium = mediumOf(network, doc_.stock());
  const auto pressure = parseIn(medium, words.toStdString(), Measure::gaugePressure);
  const auto flow = parseIn(medium, words.toStdString(), Measure::volumeFlow);
  if (!pressure && !flow) return std::nullopt;
  goal.flow = !pressure, goal.value_si = pressure ? *pressure : *flow;
  return goal;
}

void PumpCard::act(const QString& link) {
  if (!result_) return;
  if (link.startsWith("mend:")) {
    const auto i = static_cast<std::size_t>(link.mid(5).toUInt());
    if (i < result_->remedies.size()) doc_.apply(result_->remedies[i].remedy);
  } else if (link == "worst" && worst_) {
    doc_.takeModel(addSuctionCase(doc_.model(), result_->work.in, result_->pump, *worst_));
  } else if (link == "worst:level" && worst_) {
    doc_.select({worst_->tank});
    emit doc_.wantsShown(worst_->tank);
    emit doc_.wantsField(worst_->tank, text(limitRow(LimitId::levelLeast).key));
  } else if (link == "worst:temperature") {
    doc_.select({});
    emit doc_.wantsField(jobId, key::highestTemperature);
  } else if (link.startsWith("show:")) {
    const Id id = link.mid(5).toUInt();
    if (doc_.network().find(id)) {
      doc_.select({id});
      emit doc_.wantsShown(id);
    }
  }
}

void PumpCard::display(const StudyResultPtr& result) {
  result_ = result;
  for (QLabel* label : texts_) label->setVisible(false);
  hold_->setVisible(false), holdWords_->setVisible(false);
  const auto put = [](QLabel* label, const QString& html) {
    label->setText(html);
    label->setVisible(!html.isEmpty());
  };
  if (!result) return put(story_, tr("No pump or supply in this model."));
  const StudyResult& r = *result;
  const UnitSet& units = doc_.units();
  const Element* e = doc_.network().find(r.work.place);
  if (!e) return;
  const QString quiet = look_.ink2.name(), water = look_.water.name(), warning = look_.warning.name(),
                hair = look_.hair.name();
  const auto say = [&](std::optional<double> v, Measure m, int figures = 4) {
    return v ? QString::fromStdString(withUnit(*v, m, units, figures)).toHtmlEscaped() : QString("–");
  };
  const auto html = [](const std::string& words) { return QString::fromStdString(words).toHtmlEscaped(); };
  const auto heading = [&](const QString& words) {
    return QString(
               "<table width='100%' cellspacing='0' cellpadding='1'><tr><td colspan='2' style='color:%1; "
               "border-bottom:1px solid %2'>%3</td></tr>")
        .arg(quiet, hair, words);
  };
  const auto row = [&](const QString& what, const QString& value, const QString& tone = {},
                       bool strong = false) {
    const QString style = tone.isEmpty() ? QString() : QString(" style='color:%1'").arg(tone);
    return QString("<tr><td%1>%2%3%4</td><td align='right' style='white-space:nowrap;%5'>%2%6%4</td></tr>")
        .arg(style, strong ? "<b>" : "", what, strong ? "</b>" : "",
             tone.isEmpty() ? QString() : "color:" + tone, value);
  };

  const bool pump = e->part->lifts;
  PumpDuty duty;
  if (r.base.summary.usable() && !r.made)
    for (const PumpDuty& d : dutiesOf(r.network, r.base))
      if (d.pump == r.pump) duty = d;
  QString place = QString::fromStdString(placeSaid(r.network, duty)).toHtmlEscaped();
  if (!pump) place = tr("notional pump");
  QString name = html(e->name);
  if (r.group.members.size() > 1) {
    QStringList names;
    for (const Id id : r.group.members) names << html(r.network.at(id).name);
    name = names.join(" + ");
    place = tr("suction and power of %1").arg(html(e->name));
  }
  put(name_, QString("<span style='font-size:17px; font-weight:600'>%1</span>&nbsp;&nbsp; <span "
                     "style='color:%2'>%3</span>")
                 .arg(name, quiet, place));

  QStringList story;
  const SystemCurve* curve = r.curves.empty() ? nullptr : &r.curves.front().curve;
  if (curve && curve->static_m) {
    QString words =
        tr("Static head %1, %2")
            .arg("<b>" + say(curve->static_m, Measure::headDrop) + "</b>", html(curve->staticSaid));
    if (pump && duty.flow_m3s && duty.head_m && duty.runs && !duty.shutIn)
      words += tr("; required head %1 at the duty point")
                   .arg("<b>" + say(duty.head_m, Measure::headDrop) + "</b>");
    story << words + ".";
  }
  if (curve)
    for (const CurveBreak& b : curve->breaks)
      story << tr("%1 at %2: %3.")
                   .arg(b.step ? tr("Step") : tr("Kink"), say(b.flow_m3s, Measure::volumeFlow, 3),
                        html(b.what));
  if (r.group.members.size() > 1 && !r.group.series && !r.group.block && !r.groupCurve.empty())
    story << tr("Combined curve at the present shares of the flow: correct at the duty point only.");
  for (const CurveBreak& b : r.groupCurve.breaks)
    story << tr("Combined curve: kink at %1: %2.").arg(say(b.flow_m3s, Measure::volumeFlow, 3), html(b.what));
  const TracedCurve* drawn = r.shared ? static_cast<const TracedCurve*>(&*r.shared) : curve;
  if (drawn) {
    for (const FlowGap& g : drawn->gaps)
      story << QString("<span style='color:%1'>%2</span>")
                   .arg(warning, tr("No solution from %1 to %2: %3.")
                                     .arg(say(g.from_m3s, Measure::volumeFlow, 3),
                                          say(g.to_m3s, Measure::volumeFlow, 3), html(g.why)));
    if (drawn->empty() && r.done) story << tr("No solution at any flow.");
  }
  if (r.shared)
    for (const CurveBreak& b : r.shared->breaks)
      if (!b.what.empty())
        story << tr("From %1: %2.").arg(say(b.flow_m3s, Measure::volumeFlow, 3), html(b.what));
  if (pump && duty.shutIn && duty.runs)
    story << QString("<span style='color:%1'>%2</span>")
                 .arg(warning, duty.pushedOffBy == noId
                                   ? tr("Dead-headed.")
                                   : tr("Dead-headed by %1.").arg(html(r.network.at(duty.pushedOffBy).name)));
  if (!r.problem.empty())
    story << QString("<span style='color:%1'>▲ %2</span>").arg(warning, html(r.problem));
  if (!r.done) story << QString("<span style='color:%1'>%2</span>").arg(quiet, tr("solving …"));
  put(story_, story.join("<br>"));

  if (r.budget && pump) {
    const SuctionBudget& b = *r.budget;
    QString t = heading(tr("Suction budget"));
    for (const SuctionBudget::Item& item : b.items) {
      const QString value = (item.head_m < 0 ? "−" : "+") +
                            QString::fromStdString(withUnit(std::abs(item.head_m), Measure::headDrop, units,
                                                            std::abs(item.head_m) < 0.1 ? 1
                                                            : std::abs(item.head_m) < 1 ? 2
                                                                                        : 3));
      const QString what = item.element != noId && doc_.network().find(item.element)
                               ? QString("<a href='show:%1' style='color:%2; text-decoration:none'>%3</a>")
                                     .arg(item.element)
                                     .arg(look_.ink.name(), html(item.what))
                               : html(item.what);
      t += row(what, value);
    }
    t += row(tr("NPSH available"), say(b.available_m, Measure::headDrop, 3), {}, true);
    if (b.required_m) t += row(tr("NPSH required"), say(b.required_m, Measure::headDrop, 3));
    if (b.margin_m) {
      const bool broken = *b.margin_m < b.leastMargin_m;
      t += row(tr("Margin (%1 required)").arg(say(b.leastMargin_m, Measure::headDrop, 2)),
               say(b.margin_m, Measure::headDrop, 3), broken ? warning : water, true);
    }
    if (b.ratio) t += row(tr("NPSH ratio"), QString("%1").arg(*b.ratio, 0, 'f', 2), quiet);
    if (b.flowLeft_m3s)
      t += row(tr("Flow at required margin"), say(b.flowLeft_m3s, Measure::volumeFlow, 3), quiet);
    if (b.temperature_c)
      t += row(tr("Temperature at required margin"), say(b.temperature_c, Measure::temperature, 3), quiet);
    if (b.greatestLift_m)
      t += row(tr("Maximum suction lift"), say(b.greatestLift_m, Measure::headDrop, 3), quiet);
    if (b.submergence_m && b.leastSubmergence_m)
      t += row(tr("Submergence (min. %1, HI 9.8)").arg(say(b.leastSubmergence_m, Measure::headDrop, 2)),
               say(b.submergence_m, Measure::headDrop, 3),
               *b.submergence_m < *b.leastSubmergence_m ? warning : quiet);
    worst_ = suctionCaseOf(r.network, r.base, r.pump);
    if (worst_) {
      const auto link = [&](const char* to, const QString& words) {
        return QString("<a href='%1' style='color:%2'>%3</a>").arg(to, water, words);
      };
      if (worst_->differs)
        t += row(link("worst", tr("Add case: lowest level, warmest liquid")),
                 html((worst_->level ? worst_->level->typed : std::string("–")) + ", " +
                      (worst_->temperature ? worst_->temperature->typed : std::string("–"))),
                 quiet);
      if (!worst_->level)
        t += row(link("worst:level", tr("Give the bottom of %1").arg(html(r.network.at(worst_->tank).name))),
                 tr("lowest level"), quiet);
      if (!worst_->temperature)
        t += row(link("worst:temperature", tr("Give the highest temperature")), tr("warmest liquid"), quiet);
    }
    put(suction_, t + "</table>");
  }
  if (!r.remedies.empty()) {
    QString t = heading(tr("Possible fixes, each solved"));
    for (std::size_t i = 0; i < r.remedies.size(); ++i)
      t += row(QString("<a href='mend:%1' style='color:%2'>%3</a>")
                   .arg(i)
                   .arg(water, html(r.remedies[i].remedy.words)),
               tr("margin %1").arg(say(r.remedies[i].margin_m, Measure::headDrop, 2)), quiet);
    put(fixes_, t + "</table>");
  }
  if (pump && r.base.summary.usable()) {
    const ReadingOf reading(r.network, r.base, r.pump);
    if (const auto p = atTheWire(r.work.model.costs, *e->part, *reading)) {
      QString t = heading(tr("Power and cost"));
      t += row(tr("Shaft, motor, mains"),
               tr("%1, %2, %3")
                   .arg(QString::fromStdString(asNumber(p->shaft_w, Measure::power, units, 3)),
                        QString::fromStdString(asNumber(p->motor_w, Measure::power, units, 3)),
                        say(p->wire_w, Measure::power, 3)));
      t += row(tr("Motor %1 %, drive %2 %")
                   .arg(p->motorEfficiency * 100, 0, 'f', 1)
                   .arg(p->driveEfficiency * 100, 0, 'f', 0),
               p->ownMotor ? tr("pump data") : tr("from Costs"), quiet);
      if (duty.flow_m3s && *duty.flow_m3s > 0)
        t += row(tr("Specific energy per m³"),
                 QString::fromStdString(digits(p->wire_w / *duty.flow_m3s / 3.6e6, 3)) + " kWh");
      const PumpYear year = yearOfPump(doc_.model(), doc_.answers(), r.pump);
      if (year.hours_s > 0) {
        QString cost = QString::fromStdString(digits(year.energy_j / 3.6e6, 3)) + " kWh";
        if (year.cost) cost = QString::fromStdString(digits(*year.cost, 4)) + " " + html(year.currency);
        t +=
            row(tr("Per year, %1 h in all cases").arg(QString::fromStdString(digits(year.hours_s / 3600, 4))),
                cost);
      }
      put(power_, t + "</table>");
    }
    hold_->setVisible(true), holdWords_->setVisible(true);
  }
  if (!r.speeds.empty()) {
    QString t = heading(tr("Speed by case"));
    for (const SpeedRow& s : r.speeds) {
      const Case* c = doc_.model().cases.find(s.id);
      QString value = s.held ? say(s.duty.speed_perS, Measure::rotation) : html(s.why);
      if (s.tooSlow) value += tr(", below minimum");
      if (s.tooFast) value += tr(", above maximum");
      t += row(c ? html(c->name) : QString("?"), value,
               s.held && !s.tooSlow && !s.tooFast ? QString() : warning);
    }
    put(speeds_, t + "</table>");
  }
  if (!r.vapour.empty()) {
    QString t = heading(tr("Margins to vapour pressure"));
    for (const VapourMargin& v : r.vapour) {
      const Element* at = r.network.find(v.element);
      if (!at) continue;
      QString value = say(v.margin_pa, Measure::pressureDrop, 3);
      if (v.temperature_c) value += tr(", zero at %1").arg(say(v.temperature_c, Measure::temperature, 3));
      t += row(QString("<a href='show:%1' style='color:%2; text-decoration:none'>%3</a>")
                   .arg(v.element)
                   .arg(look_.ink.name(), html(at->name)),
               value, v.margin_pa < 0 ? warning : QString());
    }
    put(vapour_, t + "</table>");
  }
  if (pump) {
    Values scratch;
    const Values& values = valuesOf(*e, doc_.stock(), scratch);
    QStringList lines;
    for (const std::string& d : doubts(values, r.base.setting, units)) lines << html(d);
    if (!lines.isEmpty())
      put(doubts_,
          QString("<span style='color:%1'>%2</span><br>%3").arg(quiet, tr("Data check"), lines.join("<br>")));
  }
}

void PumpCard::showUnits(const QString& item, const std::vector<CandidateDuty>& rows) {
  units_->setVisible(!rows.empty());
  if (rows.empty()) return;
  const UnitSet& units = doc_.units();
  QString t =
      QString(
          "<table width='100%' cellspacing='0' cellpadding='1'><tr><td colspan='4' style='color:%1; "
          "border-bottom:1px solid %2'>%3</td></tr>")
          .arg(look_.ink2.name(), look_.hair.name(), tr("%1 by pumps running").arg(item.toHtmlEscaped()));
  for (const CandidateDuty& d : rows) {
    const auto say = [&](std::optional<double> v, Measure m, int figures) {
      return v ? QString::fromStdString(withUnit(*v, m, units, figures)) : QString("–");
    };
    t += QString(
             "<tr><td>%1</td><td align='right'>%2</td><td align='right'>%3</td><td align='right' "
             "style='color:%4'>%5</td></tr>")
             .arg(d.duty.units, 0, 'f', 0)
             .arg(d.solved ? say(d.duty.flow_m3s, Measure::volumeFlow, 3) : tr("no solution"),
                  say(d.duty.head_m, Measure::headDrop, 4),
                  d.preferred ? look_.ink2.name() : look_.warning.name(),
                  d.duty.ofBest ? tr("%1 % of BEP").arg(*d.duty.ofBest * 100, 0, 'f', 0) : QString());
  }
  units_->setText(t + "</table>");
}

}  // namespace conduit::desktop
