#include "desks/pumps/pumps_desk.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QSaveFile>
#include <QSplitter>
#include <QVBoxLayout>
#include <cmath>

#include "cases/case_edits.h"
#include "desks/pumps/candidates_view.h"
#include "desks/pumps/places.h"
#include "desks/pumps/pump_card.h"
#include "exchange/model_file.h"
#include "exchange/table_file.h"
#include "look/page_file.h"
#include "look/refused.h"
#include "look/words.h"
#include "model/pump_request.h"
#include "network/setting.h"
#include "plot/pump_figure.h"
#include "pump/data_sheet.h"
#include "pump/pump_edits.h"
#include "quantity/format.h"
#include "quantity/parse.h"

namespace conduit::desktop {

PumpsDesk::PumpsDesk(Document& document) : doc_(document), look_(Look::light()) {
  places_ = new Places(doc_);
  card_ = new PumpCard(doc_);
  figure_ = new Stack;
  figure_->setAccessibleName(tr("Head, NPSH, efficiency and power against flow"));
  model_ = new CandidatesModel(this);
  candidates_ = new CandidatesView(*model_);

  auto* reading = new QWidget;
  reading->setObjectName("pumps.reading");
  reading->setFixedHeight(34);
  auto* line = new QHBoxLayout(reading);
  line->setContentsMargins(14, 4, 14, 4);
  line->setSpacing(6);
  readFlow_ = new QLineEdit;
  readFlow_->setObjectName("pumps.readFlow");
  readFlow_->setAccessibleName(tr("Flow to read"));
  readHead_ = new QLineEdit;
  readHead_->setObjectName("pumps.readHead");
  readHead_->setAccessibleName(tr("Head to read"));
  for (QLineEdit* edit : {readFlow_, readHead_}) {
    edit->setFixedSize(92, 23);
    edit->setAlignment(Qt::AlignRight);
  }
  readWords_ = new QLabel;
  readWords_->setObjectName("pumps.readWords");
  giveBack_ = new QLabel;
  giveBack_->setObjectName("pumps.giveBack");
  giveBack_->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
  line->addWidget(new QLabel(tr("Required head at")));
  line->addWidget(readFlow_);
  line->addWidget(new QLabel(tr("is")));
  line->addWidget(readHead_);
  line->addSpacing(8);
  line->addWidget(giveBack_);
  line->addWidget(readWords_, 1);
  const auto typed = [this](QLineEdit* edit, Measure measure) -> std::optional<double> {
    if (!edit->isModified()) return std::nullopt;
    edit->setModified(false);
    const auto given = parseIn(mediumOf(doc_.network(), doc_.stock()), edit->text().toStdString(), measure,
                               &doc_.units().unitFor(measure));
    markRefused(*edit, given ? QString() : QString::fromStdString(given.error().what));
    return given ? std::optional(*given) : std::nullopt;
  };
  connect(readFlow_, &QLineEdit::editingFinished, this, [this, typed] {
    if (const auto q = typed(readFlow_, Measure::volumeFlow)) readAt(q, {});
  });
  connect(readHead_, &QLineEdit::editingFinished, this, [this, typed] {
    if (const auto h = typed(readHead_, Measure::headDrop)) readAt({}, h);
  });
  connect(giveBack_, &QLabel::linkActivated, this, &PumpsDesk::giveBack, Qt::QueuedConnection);

  auto* middle = new QWidget;
  auto* middleLayout = new QVBoxLayout(middle);
  middleLayout->setContentsMargins(0, 0, 0, 0);
  middleLayout->setSpacing(0);
  middleLayout->addWidget(reading);
  middleLayout->addWidget(figure_, 1);
  auto* upper = new QWidget;
  auto* upperLayout = new QHBoxLayout(upper);
  upperLayout->setContentsMargins(0, 0, 0, 0);
  upperLayout->setSpacing(0);
  upperLayout->addWidget(places_);
  upperLayout->addWidget(middle, 1);
  upperLayout->addWidget(card_);

  auto* lower = new QWidget;
  lower->setObjectName("pumps.lower");
  auto* lowerLayout = new QVBoxLayout(lower);
  lowerLayout->setContentsMargins(12, 6, 12, 6);
  lowerLayout->setSpacing(2);
  title_ = new QLabel;
  title_->setObjectName("pumps.title");
  foot_ = new QLabel;
  foot_->setObjectName("pumps.foot");
  foot_->setWordWrap(true);  // many reasons never make the window wider
  for (QLabel* label : {title_, foot_}) {
    label->setTextFormat(Qt::RichText);
    label->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
    connect(label, &QLabel::linkActivated, this, &PumpsDesk::act, Qt::QueuedConnection);
  }
  lowerLayout->addWidget(title_);
  lowerLayout->addWidget(candidates_, 1);
  lowerLayout->addWidget(foot_);

  split_ = new QSplitter(Qt::Vertical);
  split_->setHandleWidth(1);
  split_->setChildrenCollapsible(false);
  split_->addWidget(upper);
  split_->addWidget(lower);
  split_->setSizes({500, 220});
  split_->setStretchFactor(0, 3);
  split_->setStretchFactor(1, 1);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->addWidget(split_);

  connect(places_, &Places::chosen, this, [this] {
    read_.reset(), sharedRead_.reset();
    result_.reset();
    card_->showUnits({}, {});
    later(0);
  });
  connect(places_, &Places::changed, this, [this] { later(0); });
  connect(card_, &PumpCard::goalChanged, this, [this] { later(0); });
  connect(&study_, &PumpStudy::found, this, &PumpsDesk::receive);
  connect(&study_, &PumpStudy::progress, this, [this](int done, int of) {
    if (done < of)
      title_->setText(
          QString(
              "<b>%1</b>&nbsp;&nbsp; <span style='color:%2'>%3</span> <a href='stop' style='color:%4'>%5</a>")
              .arg(tr("Candidate pumps"), look_.ink2.name(), tr("%1 of %2 solved …").arg(done).arg(of),
                   look_.water.name(), tr("stop")));
  });
  for (const auto signal :
       {&Document::changed, &Document::answered, &Document::caseChanged, &Document::unitsChanged})
    connect(&doc_, signal, this, [this] { later(); });
  connect(&doc_, &Document::selectionChanged, this, [this] {
    // A pump or supply chosen elsewhere is the one that is looked at here.
    const Id id = doc_.selected();
    const Element* e = id == noId || id == jobId ? nullptr : doc_.network().find(id);
    if (e && (e->part->lifts || e->part->holdsHead || (e->part->ends == Ends::self && isVisible())))
      places_->choose(id);
    else if (isVisible()) places_->refresh();
  });
  connect(&doc_, &Document::replaced, this, [this] {
    study_.leave();
    result_.reset(), read_.reset(), sharedRead_.reset(), proposal_.reset();
    places_->choose(noId);
  });
  later_.setSingleShot(true);
  connect(&later_, &QTimer::timeout, this, &PumpsDesk::begin);

  connect(figure_, &Stack::pointed, this, &PumpsDesk::point);
  connect(figure_, &Stack::left, this, [this] { figure_->readOff(NAN, {}); });
  connect(figure_, &Stack::dragged, this, [this](const QString&, double x, double) {
    // Along the system curve, as drawn; what stands there exactly is solved when it is let go.
    if (!result_) return;
    const double q = x * doc_.units().unitFor(Measure::volumeFlow).factor;
    const TracedCurve* curve = result_->shared           ? static_cast<const TracedCurve*>(&*result_->shared)
                               : result_->curves.empty() ? nullptr
                                                         : &result_->curves.front().curve;
    const auto h = curve ? curve->at(q) : std::nullopt;
    if (!h) return;
    figure_->moveMark("duty", x, inUnit(*h, doc_.units().unitFor(Measure::headDrop)));
    figure_->moveMark("read", x, inUnit(*h, doc_.units().unitFor(Measure::headDrop)));
    figure_->readOff(x, QString("<b>%1, %2</b>")
                            .arg(QString::fromStdString(withUnit(q, Measure::volumeFlow, doc_.units(), 3)),
                                 QString::fromStdString(withUnit(*h, Measure::headDrop, doc_.units()))));
  });
  connect(figure_, &Stack::dropped, this, [this](const QString&, double x, double) {
    readAt(x * doc_.units().unitFor(Measure::volumeFlow).factor, {});
  });
  connect(candidates_, &CandidatesView::markedChanged, this, [this] {
    showFigure();
    const auto rows = candidates_->marked();
    const Candidate* c = rows.size() == 1 ? model_->at(rows.front()) : nullptr;
    // Three more solves: at once where the network is not large.
    if (c && result_ && result_->network.count() < 3000)
      card_->showUnits(QString::fromStdString(c->item),
                       unitsRunning(result_->work.model, result_->work.place, c->item, 3, result_->work.stock,
                                    {.current = result_->work.in, .units = doc_.units()}));
    else card_->showUnits({}, {});
  });
  connect(candidates_, &CandidatesView::tries, this, &PumpsDesk::tryItem);
  connect(candidates_, &CandidatesView::takes, this, &PumpsDesk::takeItem);
}

PumpsDesk::~PumpsDesk() = default;

void PumpsDesk::later(int ms) {
  stale_ = true;
  if (isVisible()) later_.start(ms);
}

void PumpsDesk::showEvent(QShowEvent* event) {
  Desk::showEvent(event);
  if (stale_) later_.start(0);
}

bool PumpsDesk::settled() const {
  return !stale_ && result_ && result_->done && !study_.running() &&
         result_->work.stamp == doc_.history().stamp() && result_->work.in == doc_.currentCase();
}

void PumpsDesk::begin() {
  if (!isVisible()) return;
  stale_ = false;
  places_->refresh();
  if (places_->place() == noId) {
    result_.reset();
    card_->display(nullptr);
    showFigure();
    showCandidates();
    return;
  }
  StudyWork work{.model = doc_.model(),
                 .stamp = doc_.history().stamp(),
                 .in = doc_.currentCase(),
                 .ticked = places_->ticked(),
                 .place = places_->place(),
                 .together = places_->together(),
                 .growing = places_->growing(),
                 .shared = places_->shared(),
                 .rest = places_->rest(),
                 .stock = doc_.sharedStock(),
                 .units = doc_.units()};
  if (const PumpRequest* asked = requestAt(doc_.model().of<PumpRequests>().all, work.place))
    work.request = *asked;
  work.request.at = work.place;
  work.hold = card_->goal(doc_.network());
  if (doc_.current()) work.answer = doc_.solved();
  study_.begin(std::move(work));
}

void PumpsDesk::receive(const StudyResultPtr& result) {
  // What was there stays, older, until there is something of its kind.
  result_ = result;
  std::optional<double> flow, head;
  if (result->base.summary.usable() && !result->made) {
    const BranchReading b = result->base.branch(result->pump, 0);
    flow = b.flow_m3s;
    if (b.headFrom_m && b.headTo_m) head = *b.headTo_m - *b.headFrom_m;
  }
  if (result->selection && result->selection->problem.empty())
    flow = result->selection->flow_m3s, head = result->selection->head_m;
  places_->showFound(flow, head);
  const auto quiet = [&](std::optional<double> v, Measure m, int figures) {
    return v ? QString::fromStdString(withUnit(*v, m, doc_.units(), figures)) : QString();
  };
  readFlow_->setPlaceholderText(quiet(flow, Measure::volumeFlow, 3));
  readHead_->setPlaceholderText(quiet(head, Measure::headDrop, 4));
  card_->display(result);
  showFigure();
  if (result->done) showCandidates();
}

void PumpsDesk::showFigure() {
  PumpFigure figure;
  if (!result_) {
    figure_->display({.panes = {{}}, .note = whyNoFigure()});
    return;
  }
  const StudyResult& r = *result_;
  figure.sheet = &r.sheet;
  CurveSheet together;
  if (r.group.members.size() > 1) {
    // Only what matches the curve of several is drawn with it.
    together.empty = r.groupCurve.empty();
    for (const DutyPoint& p : r.groupCurve.points)
      if (std::isfinite(p.head_m)) together.head.push_back(p);
    if (!together.head.empty())
      together.runOut_m3s = r.groupCurve.last(), together.shutOff_m = together.head.front().head_m;
    figure.sheet = &together;
  }
  const Element* e = doc_.network().find(r.work.place);
  if (e) {
    const std::string* item = e->text(stockItemKey);
    QString name = QString::fromStdString(item ? *item : e->name);
    if (r.group.members.size() > 1) {
      QStringList names;
      for (const Id id : r.group.members) names << QString::fromStdString(r.network.at(id).name);
      name = names.join(" + ") + " " + (r.group.series ? tr("in series") : tr("in parallel"));
    } else if (r.sheet.speed_perS) {
      name += " " + tr("at %1").arg(QString::fromStdString(
                        withUnit(*r.sheet.speed_perS, Measure::rotation, doc_.units())));
    }
    figure.name = name;
  }
  for (const StudyResult::Curve& c : r.curves) {
    const Case* which = doc_.model().cases.find(c.id);
    figure.systems.push_back({r.curves.size() == 1 ? tr("system curve")
                              : which              ? QString::fromStdString(which->name)
                                                   : QString(),
                              &c.curve});
  }
  if (r.shared) figure.systems = {{tr("for minimum pressure"), &*r.shared}};
  if (!r.npshAvailable.empty() && r.group.members.size() == 1) figure.npshAvailable = &r.npshAvailable;
  if (r.base.summary.usable() && !r.made) {
    if (const auto duty = groupDuty(r.network, r.base, r.group); duty && duty->flow_m3s > 0)
      figure.duty_m3s = duty->flow_m3s, figure.dutyHead_m = duty->head_m;
  }
  if (r.budget && r.group.members.size() == 1) figure.marginGone_m3s = r.budget->flowLeft_m3s;
  if (read_) figure.read_m3s = read_->flow_m3s, figure.readHead_m = read_->head_m;
  const auto setting = r.base.setting;
  for (const int row : candidates_->marked()) {
    const Candidate* c = model_->at(row);
    if (!c || figure.laid.size() >= 4) continue;
    Element item{.part = r.network.at(r.pump).part};
    item.values = asItem(r.network.at(r.pump).values, c->item);
    Values scratch;
    const Values& values = valuesOf(item, r.work.stock.get(), scratch);
    figure.laid.push_back({QString::fromStdString(c->item), curveSheetOf(values, setting, 1.0, doc_.units()),
                           c->now().duty.flow_m3s, c->now().duty.head_m});
  }
  StackData data = stackOf(figure, doc_.units(), false);
  data.note = whyNoFigure();
  figure_->display(std::move(data));
}

// Where there is nothing to draw: why, and what to do.
QString PumpsDesk::whyNoFigure() const {
  if (places_->place() == noId)
    return tr("Choose a pump or a supply at the left, or type the name of a point.");
  if (!result_ || !result_->done) return tr("solving …");
  const StudyResult& r = *result_;
  if (!r.problem.empty()) return QString::fromStdString(r.problem) + ".";
  if (!r.base.summary.usable() && !r.base.summary.problems.empty())
    return QString::fromStdString(r.base.summary.brief(doc_.units()));
  for (const StudyResult::Curve& c : r.curves)
    if (!c.curve.gaps.empty())
      return tr("No system curve: %1.").arg(QString::fromStdString(c.curve.gaps.front().why));
  return tr("No curve to draw: give the pump a curve, a duty point or a catalogue item.");
}

void PumpsDesk::showCandidates() {
  const QString quiet = look_.ink2.name(), water = look_.water.name();
  std::optional<double> driver;
  if (result_) driver = askedOf(result_->work.request.about, request::driver);
  std::optional<Selection> selection;
  if (result_ && result_->selection) selection = *result_->selection;
  const auto& last = model_->selection();
  const bool same = selection && last && selection->can.size() == last->can.size() &&
                    std::equal(selection->can.begin(), selection->can.end(), last->can.begin(),
                               [](const Candidate& a, const Candidate& b) { return a.item == b.item; });
  const auto marked = candidates_->marked();
  model_->display(selection, doc_.units(), driver, doc_.network());
  const Element* e = result_ ? doc_.network().find(result_->work.place) : nullptr;
  candidates_->setPlace(!e || e->part->lifts);
  if (same)
    for (const int row : marked) {
      candidates_->selectionModel()->setCurrentIndex(model_->index(row, 0), QItemSelectionModel::NoUpdate);
      candidates_->selectionModel()->select(model_->index(row, 0),
                                            QItemSelectionModel::Select | QItemSelectionModel::Rows);
    }
  if (!selection) {
    title_->setText(QString("<b>%1</b>").arg(tr("Candidate pumps")));
    foot_->clear();
    return;
  }
  QString asked = QString::fromStdString(withUnit(selection->flow_m3s, Measure::volumeFlow, doc_.units(), 3));
  if (selection->head_m)
    asked = tr("%1 at %2 required")
                .arg(asked,
                     QString::fromStdString(withUnit(*selection->head_m, Measure::headDrop, doc_.units())));
  title_->setText(selection->problem.empty()
                      ? QString("<b>%1</b>&nbsp;&nbsp; <span style='color:%2'>%3</span>")
                            .arg(tr("Candidate pumps"), quiet,
                                 tr("each at its actual duty point; %1; %2")
                                     .arg(asked, selection->cases.size() == 1
                                                     ? tr("one case")
                                                     : tr("%1 cases").arg(selection->cases.size())))
                      : QString("<b>%1</b>&nbsp;&nbsp; <span style='color:%2'>▲ %3</span>")
                            .arg(tr("Candidate pumps"), look_.warning.name(),
                                 QString::fromStdString(selection->problem).toHtmlEscaped()));
  QStringList why;
  for (const auto& [reason, count] : selection->reasons)
    why << QString("%1 %2").arg(count).arg(QString::fromStdString(reason).toHtmlEscaped());
  const std::size_t good = selection->suitable();
  QString foot = selection->can.empty()
                     ? tr("No catalogue pump suits: ")
                     : tr("%1 suitable%2; %3 not: ")
                           .arg(good)
                           .arg(good < selection->can.size()
                                    ? tr(", %1 short of margin").arg(selection->can.size() - good)
                                    : QString())
                           .arg(selection->cannot.size());
  foot += why.join(", ");
  if (!selection->problem.empty()) foot.clear();
  if (selection->stopped) foot = tr("Stopped. ") + foot;
  if (proposal_)
    foot += QString("&nbsp;&nbsp; <a href='proposal' style='color:%1'>%2</a>")
                .arg(water, tr("save proposal with %1 as a model …").arg(proposed_.toHtmlEscaped()));
  foot_->setText(QString("<span style='color:%1'>%2</span>").arg(quiet, foot));
}

void PumpsDesk::point(double x) {
  if (!result_ || x < 0) return figure_->readOff(NAN, {});
  const StudyResult& r = *result_;
  const UnitSet& units = doc_.units();
  const double q = x * units.unitFor(Measure::volumeFlow).factor;
  QStringList lines;
  const auto say = [&](double v, Measure m, int figures = 4) {
    return QString::fromStdString(withUnit(v, m, units, figures));
  };
  lines << "<b>" + say(q, Measure::volumeFlow, 3) + "</b>";
  if (r.group.members.size() == 1) {
    if (const auto h = r.sheet.headAt(q)) lines << tr("pump head %1").arg(say(*h, Measure::headDrop));
  }
  for (const StudyResult::Curve& c : r.curves) {
    const Case* which = doc_.model().cases.find(c.id);
    if (const auto h = c.curve.at(q))
      lines << (r.curves.size() == 1 || !which ? tr("required %1").arg(say(*h, Measure::headDrop))
                                               : tr("%1: required %2")
                                                     .arg(QString::fromStdString(which->name).toHtmlEscaped(),
                                                          say(*h, Measure::headDrop)));
  }
  if (r.shared)
    if (const auto h = r.shared->at(q)) lines << tr("required %1").arg(say(*h, Measure::headDrop));
  if (r.group.members.size() == 1) {
    if (const auto n = r.sheet.npshAt(q)) {
      QString npsh = tr("NPSH required %1").arg(say(*n, Measure::headDrop, 3));
      for (std::size_t i = 0; i + 1 < r.npshAvailable.size(); ++i) {
        const DutyPoint &a = r.npshAvailable[i], &b = r.npshAvailable[i + 1];
        if (q < a.flow_m3s || q > b.flow_m3s) continue;
        npsh += tr(", available %1")
                    .arg(say(a.head_m + (q - a.flow_m3s) / (b.flow_m3s - a.flow_m3s) * (b.head_m - a.head_m),
                             Measure::headDrop, 3));
        break;
      }
      lines << npsh;
    }
    if (const auto e = r.sheet.efficiencyAt(q)) {
      QString power = QString("%1 %").arg(*e * 100, 0, 'f', 1);
      if (const auto p = r.sheet.shaftAt(q)) power += ", " + say(*p, Measure::power, 3);
      lines << power;
    }
  }
  figure_->readOff(x, lines.join("<br>"));
}

// Read off by solving, not off the drawn line.
void PumpsDesk::readAt(std::optional<double> flow, std::optional<double> head) {
  if (!result_) return;
  const StudyResult& r = *result_;
  read_.reset(), sharedRead_.reset();
  readByHead_ = head.has_value();
  QString why;
  if (r.shared) {
    const Network now = networkOf(r.work.model, r.work.in);
    const Solution& base =
        r.work.answer && r.work.answer->usable() ? r.work.answer->solution : Solution::none();
    const auto at = flow ? sharedAtFlow(now, r.work.stock.get(), base, r.work.shared, *flow)
                         : sharedAtHead(now, r.work.stock.get(), base, r.work.shared, *r.shared, *head);
    if (at) {
      sharedRead_ = *at, read_ = DutyPoint{at->flow_m3s, at->head_m};
      const auto named = [&](Id id) {
        const Element* one = now.find(id);
        return one ? QString::fromStdString(one->name) : QString();
      };
      const auto gives = [&](Id id, double q) {
        return QString::fromStdString(providesSaid(now, id, q, doc_.units(), 3));
      };
      QStringList said{
          tr("level %1").arg(QString::fromStdString(withUnit(at->level_m, Measure::height, doc_.units()))),
          tr("%1 governs").arg(named(at->governs))};
      if (r.work.shared.other != noId) said << gives(r.work.shared.other, at->other_m3s);
      for (const auto& [id, q] : at->besides) said << gives(id, q);
      why = said.join("; ");
    } else {
      why = QString::fromStdString(at.error().what);
    }
  } else if (!r.curves.empty()) {
    const double near = r.base.summary.usable() ? r.base.branch(r.pump, 0).flow_m3s.value_or(0.0) : 0.0;
    read_ = flow ? readAtFlow(r.network, r.work.stock.get(), r.base, r.group, *flow)
                 : readAtHead(r.network, r.work.stock.get(), r.base, r.group, r.curves.front().curve, *head,
                              near);
    // Of a notional supply also as a level: what it lifts from stands at rest.
    if (const auto level = r.made && read_ ? liftsTo(r.network, r.base, r.pump, read_->head_m) : std::nullopt)
      why = tr("level %1").arg(QString::fromStdString(withUnit(*level, Measure::height, doc_.units())));
    if (!read_) why = flow ? tr("no solution at this flow") : tr("the system curve does not reach this head");
  }
  const auto put = [](QLineEdit* edit, const QString& words) {
    edit->setText(words);
    edit->setModified(false);
  };
  if (read_) {
    put(readFlow_, QString::fromStdString(withUnit(read_->flow_m3s, Measure::volumeFlow, doc_.units())));
    put(readHead_, QString::fromStdString(withUnit(read_->head_m, Measure::headDrop, doc_.units())));
  } else {
    put(flow ? readHead_ : readFlow_, {});
  }
  giveBack_->setText(
      read_ ? QString("<a href='give' style='color:%1'>%2</a>").arg(look_.water.name(), tr("save as a case"))
            : QString());
  readWords_->setText(QString("<span style='color:%1'>%2</span>")
                          .arg(read_ ? look_.ink2.name() : look_.warning.name(), why.toHtmlEscaped()));
  showFigure();
}

void PumpsDesk::giveBack() {
  if (!result_ || !read_) return;
  const StudyResult& r = *result_;
  const CaseId from = doc_.currentCase();
  if (sharedRead_)
    doc_.takeModel(caseOfShared(doc_.model(), from, doc_.stock(), r.work.shared, *sharedRead_));
  else
    doc_.takeModel(caseOfReading(doc_.model(), from, doc_.stock(), r.work.place, r.group,
                                 {read_->flow_m3s, read_->head_m, readByHead_, r.work.rest}));
}

void PumpsDesk::tryItem(const QString& item) {
  if (!result_) return;
  const auto units = askedOf(result_->work.request.about, request::units);
  if (candidates_->ofPump()) {
    doc_.takeModel(
        conduit::tryItem(doc_.model(), doc_.currentCase(), result_->work.place, item.toStdString(), units));
    return;
  }
  auto made = proposal(doc_.model(), result_->work.place, item.toStdString(), units);
  if (!made) {
    emit doc_.refused(QString::fromStdString(made.error().what));
    return;
  }
  proposal_ = std::move(*made), proposed_ = item;
  const Solution answer = solve(proposal_->drawn, doc_.stock());
  emit says(
      answer.summary.usable()
          ? tr("Proposal: %1").arg(QString::fromStdString(answer.summary.brief(doc_.units())))
          : tr("The proposal has no solution: %1")
                .arg(QString::fromStdString(
                    answer.summary.problems.empty() ? std::string() : answer.summary.problems.front().what)),
      !answer.summary.usable());
  showCandidates();
}

void PumpsDesk::takeItem(const QString& item) {
  if (!result_) return;
  const auto units = askedOf(result_->work.request.about, request::units);
  const Id place = result_->work.place;
  const Id before = doc_.network().bound();
  if (doc_.takeModel(conduit::takeItem(doc_.model(), place, item.toStdString(), units)) &&
      !candidates_->ofPump()) {
    // The new pump is the one to be looked at.
    for (Id id = before; id < doc_.network().bound(); ++id)
      if (const Element* e = doc_.network().find(id); e && e->part->lifts) places_->choose(id);
  }
}

void PumpsDesk::act(const QString& link) {
  if (link == "stop") study_.stop();
  if (link == "proposal" && proposal_) {
    const QString path = QFileDialog::getSaveFileName(this, tr("Save the proposal as a model"), doc_.folder(),
                                                      tr("Models (*.lconduit)"));
    if (path.isEmpty()) return;
    QSaveFile file(path.endsWith(".lconduit") ? path : path + ".lconduit");
    const std::string text = writeModel(*proposal_);
    if (!file.open(QIODevice::WriteOnly) ||
        file.write(text.data(), static_cast<qint64>(text.size())) != static_cast<qint64>(text.size()) ||
        !file.commit())
      emit doc_.refused(tr("The proposal could not be written to %1: %2").arg(path, file.errorString()));
  }
}

void PumpsDesk::setLook(const Look& look) {
  look_ = look;
  places_->setLook(look);
  card_->setLook(look);
  figure_->setLook(look);
  candidates_->setLook(look);
  setStyleSheet(
      QString(
          "#pumps\\.lower { border-top: 1px solid %1; } #pumps\\.reading { border-bottom: 1px solid %1; }")
          .arg(look.hair.name()));
  showFigure();
  showCandidates();
}

void PumpsDesk::takeKeyboard() { places_->takeKeyboard(); }

void PumpsDesk::fillMenu(Menu which, QMenu* menu, const Make& make) {
  if (which == Menu::file) {
    menu->addAction(make("pumps.sheet", tr("Pump data sheet …"), {}, [this] { exportSheet(false); }));
    menu->addAction(
        make("pumps.selectionSheet", tr("Candidates data sheet …"), {}, [this] { exportSheet(true); }));
    menu->addAction(make("pumps.table", tr("Export candidates …"), {}, [this] { exportTable(); }));
    menu->addAction(make("pumps.picture", tr("Export pump figure …"), {}, [this] { exportFigure(); }));
  } else if (which == Menu::view) {
    menu->addAction(make("pumps.whole", tr("Zoom out pump figure"), {}, [this] { figure_->zoomOut(); }));
  } else if (which == Menu::edit) {
    menu->addAction(make("pumps.read", tr("Read the system curve"), QKeySequence("Ctrl+Shift+E"), [this] {
      readFlow_->setFocus();
      readFlow_->selectAll();
    }));
    menu->addAction(
        make("pumps.candidates", tr("Go to the candidates"), QKeySequence("Ctrl+Shift+K"), [this] {
          candidates_->setFocus();
          if (!candidates_->currentIndex().isValid() && model_->rowCount() > 0) candidates_->selectRow(0);
        }));
  }
}

void PumpsDesk::exportFigure() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Figure of the pump"), {}, tr("Pictures (*.svg *.png)"));
  if (!path.isEmpty() && !figure_->save(path)) emit doc_.refused(tr("%1 could not be written").arg(path));
}

void PumpsDesk::exportTable() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export candidates"), {}, tr("Tables (*.xlsx *.csv)"));
  if (path.isEmpty()) return;
  if (const auto done = writeTable(path.toStdString(), model_->table()); !done)
    emit doc_.refused(QString::fromStdString(done.error().what));
}

void PumpsDesk::exportSheet(bool ofSelection) {
  const QString path = QFileDialog::getSaveFileName(this, tr("Data sheet"), {}, tr("Pages (*.pdf *.html)"));
  if (!path.isEmpty()) writeSheet(path, ofSelection);
}

bool PumpsDesk::writeSheet(const QString& path, bool ofSelection) {
  const auto refuse = [&](const QString& why) {
    emit doc_.refused(why);
    return false;
  };
  if (!result_ || !result_->done) return refuse(tr("The study is still running."));
  const StudyResult& r = *result_;
  Page page;
  if (ofSelection) {
    if (!r.selection) return refuse(tr("There are no candidates to export."));
    page = selectionSheet(doc_.model(), r.work.place, *r.selection, doc_.units());
  } else {
    const SolvedPtr& solved = doc_.solved();
    if (r.made || !solved || !solved->usable())
      return refuse(tr("A data sheet needs a pump in a solved model."));
    page = dutySheet(doc_.model(), *solved, doc_.answers(), r.pump,
                     r.curves.empty() ? nullptr : &r.curves.front().curve, doc_.units());
  }
  // The figure beside the table, as it stands.
  const QImage image = figure_->grab().toImage();
  const QString why =
      writePage(page, path,
                {.title = tr("Data sheet"), .wide = ofSelection, .picture = ofSelection ? nullptr : &image});
  return why.isEmpty() ? true : refuse(why);
}

}  // namespace conduit::desktop
