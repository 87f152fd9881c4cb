#include "desks/pumps/places.h"

#include <QAbstractButton>
#include <QCheckBox>
#include <QComboBox>
#include <QCompleter>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QSlider>
#include <QStringListModel>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

#include "cases/case_edits.h"
#include "fields/keys.h"
#include "look/choices.h"
#include "look/refused.h"
#include "look/symbol.h"
#include "look/words.h"
#include "model/pump_request.h"
#include "network/setting.h"
#include "parts/pump/fields.h"
#include "pump/system_curve.h"
#include "quantity/format.h"
#include "quantity/parse.h"

namespace conduit::desktop {

// One place: its symbol, name, duty; at the right the share of best flow and a mark where a limit is broken.
class PlaceRow : public QAbstractButton {
 public:
  PlaceRow(Id place, std::vector<Id> together) : place_(place), together_(std::move(together)) {
    setCheckable(true);
    setFixedHeight(40);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
  }
  void show(const QString& name, const QString& duty, const QString& right, bool warns,
            std::string_view symbol, const Look& look) {
    name_ = name, duty_ = duty, right_ = right, warns_ = warns, symbol_ = symbol, look_ = look;
    setText(name);
    setAccessibleName(name + " " + duty + " " + right + (warns ? tr(", a limit is not met") : QString()));
    update();
  }
  [[nodiscard]] Id place() const { return place_; }
  [[nodiscard]] const std::vector<Id>& together() const { return together_; }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing, true);
    if (isChecked()) {
      p.setPen(QPen(look_.ink, 1.2, Qt::DotLine));
      p.setBrush(look_.field);
      p.drawRoundedRect(rect().adjusted(1, 1, -2, -2), 3, 3);
    } else if (hasFocus() || underMouse()) {
      p.setPen(QPen(hasFocus() ? look_.ink : look_.hair, 1));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(rect().adjusted(1, 1, -2, -2), 3, 3);
    }
    p.save();
    p.translate(22, height() / 2);
    paintSymbol(p, symbol_, look_, 0.85, look_.ink);
    p.restore();
    p.setFont(face(13, true));
    p.setPen(look_.ink);
    p.drawText(QRect(42, 3, width() - 100, 18), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(name_, Qt::ElideRight, width() - 100));
    p.setFont(face(12));
    p.setPen(look_.ink2);
    p.drawText(QRect(42, 20, width() - 62, 17), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(duty_, Qt::ElideRight, width() - 62));
    p.drawText(QRect(width() - 66, 3, 54, 18), Qt::AlignRight | Qt::AlignVCenter, right_);
    if (warns_) {
      p.setPen(Qt::NoPen);
      p.setBrush(look_.warning);
      p.drawPolygon(
          QPolygonF({QPointF(width() - 18, 23), QPointF(width() - 24, 33), QPointF(width() - 12, 33)}));
    }
  }
  void enterEvent(QEnterEvent*) override { update(); }
  void leaveEvent(QEvent*) override { update(); }

 private:
  Id place_;
  std::vector<Id> together_;
  QString name_, duty_, right_;
  bool warns_ = false;
  std::string_view symbol_;
  Look look_ = Look::light();
};

namespace {

// What can be looked at on the desk.
bool mayBePump(const Element& e) { return e.part->lifts || e.part->holdsHead || e.part->ends == Ends::self; }

}  // namespace

Places::Places(Document& document, QWidget* parent)
    : QScrollArea(parent), doc_(document), look_(Look::light()), body_(new QWidget) {
  setObjectName("pumps.places");
  setAccessibleName(tr("Pumps and requirements"));
  setFixedWidth(246);
  setWidgetResizable(true);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setFrameShape(QFrame::NoFrame);
  body_->setFont(face(12.5));
  rows_ = new QVBoxLayout(body_);
  rows_->setContentsMargins(10, 8, 12, 12);
  rows_->setSpacing(3);
  addHeading(tr("Pumps"), "pumps");
  pumps_ = new QVBoxLayout;
  pumps_->setSpacing(2);
  rows_->addLayout(pumps_);
  fold_ = new QToolButton;
  fold_->setObjectName("pumps.fold");
  fold_->setToolButtonStyle(Qt::ToolButtonTextOnly);
  rows_->addWidget(fold_);
  connect(fold_, &QToolButton::clicked, this, [this] {
    open_ = !open_;
    refresh();
  });
  supplies_ = new QVBoxLayout;
  supplies_->setSpacing(2);
  rows_->addLayout(supplies_);
  find_ = new QLineEdit;
  find_->setObjectName("pumps.find");
  find_->setAccessibleName(tr("Notional pump at a point or supply"));
  find_->setPlaceholderText(tr("notional pump at: type a name"));
  find_->setToolTip(tr("any point, tank or fixed pressure of the model"));
  find_->setFixedHeight(23);
  rows_->addWidget(find_);
  auto* offers = new QStringListModel(this);
  auto* completer = new QCompleter(offers, find_);
  completer->setCaseSensitivity(Qt::CaseInsensitive);
  completer->setFilterMode(Qt::MatchContains);
  find_->setCompleter(completer);
  connect(find_, &QLineEdit::textEdited, this, [this, offers](const QString& typed) {
    // Of many thousand points those that fit, not all.
    QStringList fitting;
    doc_.network().each([&](Id id, const Element& e) {
      const QString name = QString::fromStdString(e.name);
      if (id != jobId && mayBePump(e) && fitting.size() < 50 && name.contains(typed, Qt::CaseInsensitive))
        fitting << name;
    });
    offers->setStringList(fitting);
    markRefused(*find_, {});
  });
  const auto find = [this] {
    const QString typed = find_->text().trimmed();
    if (typed.isEmpty()) return;
    Id id = doc_.network().byName(typed.toStdString());
    if (id == noId)
      doc_.network().each([&](Id one, const Element& e) {
        if (id == noId && QString::fromStdString(e.name).compare(typed, Qt::CaseInsensitive) == 0) id = one;
      });
    const bool can = id != noId && id != jobId && mayBePump(doc_.network().at(id));
    markRefused(*find_,
                can ? QString() : tr("There is no point, tank, fixed pressure or pump \"%1\".").arg(typed));
    if (!can) return;
    find_->clear();
    choose(id);
    refresh();
  };
  connect(find_, &QLineEdit::returnPressed, this, find);
  connect(completer, qOverload<const QString&>(&QCompleter::activated), this, find, Qt::QueuedConnection);

  sharing_ = new QWidget;
  auto* sharing = new QVBoxLayout(sharing_);
  sharing->setContentsMargins(0, 4, 0, 0);
  sharing->setSpacing(3);
  mode_ = new QComboBox;
  mode_->setObjectName("pumps.mode");
  mode_->setAccessibleName(tr("Draw-off scaling"));
  mode_->addItems({tr("draw-offs as given"), tr("scale all draw-offs")});
  sharing->addWidget(mode_);
  const auto shareLine = [&](const QString& words, QWidget* editor) {
    auto* line = new QHBoxLayout;
    auto* label = new QLabel(words);
    label->setBuddy(editor);
    editor->setAccessibleName(words);
    line->addWidget(label, 1);
    line->addWidget(editor);
    sharing->addLayout(line);
  };
  share_ = new QLineEdit("100 %");
  share_->setObjectName("pumps.share");
  least_ = new QLineEdit;
  least_->setObjectName("pumps.least");
  other_ = new QComboBox;
  other_->setObjectName("pumps.other");
  for (QLineEdit* edit : {share_, least_}) {
    edit->setFixedSize(104, 23);
    edit->setAlignment(Qt::AlignRight);
    connect(edit, &QLineEdit::editingFinished, this, &Places::changed);
  }
  other_->setFixedWidth(128);
  shareLine(tr("Share from here"), share_);
  shareLine(tr("Minimum pressure"), least_);
  shareLine(tr("Rest from"), other_);
  connect(mode_, &QComboBox::activated, this, [this] {
    refreshFields();
    emit changed();
  });
  connect(other_, &QComboBox::activated, this, &Places::changed);
  rows_->addWidget(sharing_);

  addHeading(tr("Required duty"), "asked");
  addField(tr("Flow"), request::flow, tr("all pumps together; default: present flow"));
  addField(tr("Head"), request::head, tr("default: required head at that flow"));
  addField(tr("Max. driver"), request::driver, tr("shaft power per pump"));
  addField(tr("NPSH margin"), request::margin, tr("default: the pump's or the job's"));
  moreFold_ = new QToolButton;
  moreFold_->setObjectName("pumps.more");
  rows_->addWidget(moreFold_, 0, Qt::AlignRight);
  connect(moreFold_, &QToolButton::clicked, this, [this] {
    more_ = !more_;
    refreshFields();
  });
  addField(tr("Pumps running"), request::units, tr("identical, in parallel"));
  addField(tr("Flow tolerance −"), request::shortBy, tr("% of required flow; default: 10 %"));
  addField(tr("Flow tolerance +"), request::overBy, tr("% of required flow; default: 30 %"));
  addField(tr("Solids passage"), request::solids, tr("largest sphere to pass"));
  addField(tr("Max. speed"), request::speed, tr("rated speed"));
  auto* built = new QHBoxLayout;
  construction_ = new QComboBox;
  construction_->setObjectName("asked.construction");
  construction_->setAccessibleName(tr("Construction"));
  construction_->setFixedWidth(128);
  for (const std::string_view word : pump::constructions)
    construction_->addItem(word == pump::constructions[0] ? tr("any") : text(word), text(word));
  builtWords_ = new QLabel(tr("Construction"));
  built->addWidget(builtWords_, 1);
  built->addWidget(construction_);
  rows_->addLayout(built);
  connect(construction_, &QComboBox::activated, this, [this](int i) {
    if (place_ != noId)
      doc_.takeModel(setAsked(doc_.model(), place_, request::construction,
                              i == 0 ? "" : construction_->itemData(i).toString().toStdString(), nullptr));
  });
  addHeading(tr("Ranked by"), "ranked");
  for (const auto& [key, words] :
       {std::pair{request::nearness, tr("closeness to duty")},
        std::pair{request::efficiency, tr("efficiency")}, std::pair{request::suction, tr("NPSH margin")},
        std::pair{request::driverSize, tr("driver size")}}) {
    auto* line = new QHBoxLayout;
    auto* slider = new QSlider(Qt::Horizontal);
    slider->setRange(0, 100);
    slider->setPageStep(10);
    slider->setFixedWidth(104);
    slider->setObjectName("weight." + text(key));
    slider->setAccessibleName(tr("Weight of %1").arg(words));
    line->addWidget(new QLabel(words), 1);
    line->addWidget(slider);
    rows_->addLayout(line);
    weights_[key] = slider;
    const std::string_view of = key;
    const auto take = [this, of, slider] {
      if (place_ == noId || slider->isSliderDown()) return;
      doc_.takeModel(setAsked(doc_.model(), place_, of, std::to_string(slider->value()) + " %", nullptr),
                     "weight");
    };
    connect(slider, &QSlider::sliderReleased, this, take);
    connect(slider, &QSlider::actionTriggered, this, [slider, take] {
      // By keys; while the hand holds it the release tells.
      QMetaObject::invokeMethod(slider, take, Qt::QueuedConnection);
    });
  }
  addHeading(tr("System curves for"), "cases");
  cases_ = new QVBoxLayout;
  cases_->setSpacing(1);
  rows_->addLayout(cases_);
  rows_->addStretch(1);
  setWidget(body_);
}

void Places::addHeading(const QString& words, const QString& name) {
  auto* label = new QLabel(words);
  label->setObjectName("pumps.heading." + name);
  headings_.push_back(label);
  rows_->addWidget(label);
}

QLineEdit* Places::addField(const QString& words, std::string_view key, const QString& help) {
  auto* line = new QHBoxLayout;
  auto* label = new QLabel(words);
  auto* edit = new QLineEdit;
  edit->setObjectName("asked." + text(key));
  edit->setAccessibleName(words);
  edit->setAlignment(Qt::AlignRight);
  edit->setFixedSize(104, 23);
  label->setBuddy(edit);
  for (QWidget* w : {static_cast<QWidget*>(label), static_cast<QWidget*>(edit)}) w->setToolTip(help);
  line->addWidget(label, 1);
  line->addWidget(edit);
  rows_->addLayout(line);
  fields_[key] = edit;
  labels_[key] = label;
  connect(edit, &QLineEdit::editingFinished, this, [this, edit, key, help] {
    if (!edit->isModified() || place_ == noId) return;
    edit->setModified(false);
    const bool taken =
        doc_.takeModel(setAsked(doc_.model(), place_, key, edit->text().toStdString(), &doc_.units()));
    markRefused(*edit, taken ? QString() : QString::fromStdString(doc_.lastProblem().what), help);
    if (!taken) edit->setModified(true);
    else refreshFields();
  });
  return edit;
}

void Places::choose(Id place, std::vector<Id> together) {
  const bool other = place != place_ || together != together_;
  place_ = place, together_ = std::move(together);
  for (PlaceRow* row : all_) row->setChecked(row->place() == place_ && row->together() == together_);
  foundFlow_.reset(), foundHead_.reset();
  refreshFields();
  if (other) emit chosen();
}

std::vector<CaseId> Places::ticked() const { return {tickedCases_.begin(), tickedCases_.end()}; }
void Places::tick(CaseId id, bool on) {
  if (on) tickedCases_.insert(id);
  else tickedCases_.erase(id);
  emit changed();
}
bool Places::growing() const { return !sharing_->isHidden() && mode_->currentIndex() == 1; }

Id Places::rest() const { return sharing_->isHidden() || growing() ? noId : other_->currentData().toUInt(); }

SharedSupply Places::shared() const {
  SharedSupply s{.supply = place_};
  if (const auto share =
          parse(share_->text().toStdString(), Measure::ratio, &doc_.units().unitFor(Measure::ratio)))
    s.share = share->value;
  if (const auto p = parseIn(mediumOf(doc_.network(), doc_.stock()), least_->text().toStdString(),
                             Measure::gaugePressure, &doc_.units().unitFor(Measure::gaugePressure)))
    s.least_pa = *p;
  if (s.share < 1 && other_->currentData().isValid()) s.other = other_->currentData().toUInt();
  return s;
}

void Places::showFound(std::optional<double> flow, std::optional<double> head) {
  foundFlow_ = flow, foundHead_ = head;
  refreshFields();
}

void Places::setLook(const Look& look) {
  look_ = look;
  setStyleSheet(QString("#pumps\\.places { border-right: 1px solid %1; }").arg(look_.hair.name()));
  for (QLabel* label : headings_) {
    label->setFont(face(12));
    label->setStyleSheet(
        QString("color: %1; border-bottom: 1px solid %2; padding-bottom: 2px; margin-top: 6px;")
            .arg(look_.ink2.name(), look_.hair.name()));
  }
  refresh();
}

// Rows are made anew only where the places are others.
void Places::layRows() {
  const Network& n = doc_.network();
  std::vector<std::pair<Id, std::vector<Id>>> pumps, supplies;
  std::vector<Id> running;
  n.each([&](Id id, const Element& e) {
    if (e.part->lifts) pumps.push_back({id, {}});
    else if (e.part->holdsHead) supplies.push_back({id, {}});
  });
  const SolvedPtr& solved = doc_.solved();
  if (solved && solved->usable()) {
    // Those that run side by side are offered together, with such as they hold shut.
    std::set<Id> seen;
    std::vector<std::pair<Id, std::vector<Id>>> groups;
    const auto duties = dutiesOf(solved->network, solved->solution);
    for (const PumpDuty& d : duties) {
      if (!d.runs || d.shutIn || seen.contains(d.pump) || !n.find(d.pump)) continue;
      std::vector<Id> members{d.pump};
      members.insert(members.end(), d.beside.begin(), d.beside.end());
      for (const PumpDuty& other : duties) {
        if (std::find(members.begin(), members.end(), other.pushedOffBy) == members.end()) continue;
        auto with = members;
        with.push_back(other.pump);
        if (blockOf(solved->network, solved->solution, with)) members = std::move(with);
      }
      if (members.size() < 2) continue;
      // The answer may still be of a model that is gone.
      if (std::any_of(members.begin(), members.end(), [&](Id id) { return !n.find(id); })) continue;
      std::sort(members.begin(), members.end());
      seen.insert(members.begin(), members.end());
      groups.push_back({members.front(), members});
    }
    for (auto& group : groups) {
      const auto after = std::find_if(pumps.begin(), pumps.end(),
                                      [&](const auto& p) { return p.first == group.second.back(); });
      pumps.insert(after == pumps.end() ? after : after + 1, group);
    }
  }
  // Points: what is looked at, what is selected, and those of which something is asked.
  std::vector<Id> points{place_, doc_.selected()};
  for (const PumpRequest& asked : doc_.model().of<PumpRequests>().all) points.push_back(asked.at);
  std::vector<std::pair<Id, std::vector<Id>>> first;
  for (const Id id : points)
    if (id != noId && id != jobId && n.find(id) && n.at(id).part->ends == Ends::self &&
        std::none_of(first.begin(), first.end(), [&](const auto& p) { return p.first == id; }))
      first.push_back({id, {}});
  supplies.insert(supplies.begin(), first.begin(), first.end());
  // What is looked at is among those that there is room for.
  constexpr std::size_t most = 24;
  if (supplies.size() > most) {
    const auto at = std::find_if(supplies.begin() + most, supplies.end(),
                                 [&](const auto& p) { return p.first == place_; });
    if (at != supplies.end()) std::iter_swap(at, supplies.begin() + most - 1);
    supplies.resize(most);
  }
  std::vector<std::pair<Id, std::vector<Id>>> wanted = pumps;
  wanted.insert(wanted.end(), supplies.begin(), supplies.end());
  bool same = wanted.size() == all_.size();
  for (std::size_t i = 0; same && i < all_.size(); ++i)
    same = all_[i]->place() == wanted[i].first && all_[i]->together() == wanted[i].second;
  if (!same) {
    for (PlaceRow* row : all_) row->deleteLater(), row->hide();
    all_.clear();
    for (std::size_t i = 0; i < wanted.size(); ++i) {
      auto* row = new PlaceRow(wanted[i].first, wanted[i].second);
      row->setObjectName("place." + QString::fromStdString(n.at(wanted[i].first).name) +
                         (wanted[i].second.empty() ? "" : ".together"));
      (i < pumps.size() ? pumps_ : supplies_)->addWidget(row);
      connect(row, &QAbstractButton::clicked, this, [this, row] { choose(row->place(), row->together()); });
      all_.push_back(row);
    }
  }
  if (place_ == noId || !n.find(place_) || std::none_of(wanted.begin(), wanted.end(), [&](const auto& w) {
        return w.first == place_ && w.second == together_;
      })) {
    const Id selected = doc_.selected();
    const auto at =
        std::find_if(wanted.begin(), wanted.end(), [&](const auto& w) { return w.first == selected; });
    if (at != wanted.end()) choose(at->first);
    else if (!wanted.empty()) choose(wanted.front().first, wanted.front().second);
    else choose(noId);
  }
}

void Places::refresh() {
  layRows();
  const SolvedPtr& solved = doc_.solved();
  const bool usable = solved && solved->usable();
  const UnitSet& units = doc_.units();
  const auto said = [&](std::optional<double> v, Measure m, int figures) {
    return v ? QString::fromStdString(withUnit(*v, m, units, figures)) : QString("–");
  };
  std::size_t supplies = 0;
  for (PlaceRow* row : all_) {
    const Element* e = doc_.network().find(row->place());
    if (!e) continue;
    if (!e->part->lifts) {
      ++supplies;
      row->setVisible(open_ || row->place() == place_);
    }
    QString name = QString::fromStdString(e->name), duty, right;
    bool warns = false;
    const bool there = usable && solved->element(row->place(), e->part);
    if (e->part->lifts && there) {
      std::optional<double> flow, head;
      const auto& members = row->together().empty() ? std::vector<Id>{row->place()} : row->together();
      if (members.size() > 1) name = tr("%1 in parallel").arg(members.size());
      for (const Id id : members) {
        const PumpDuty d = dutyOf(solved->network, solved->solution, id);
        if (d.flow_m3s) flow = flow.value_or(0.0) + *d.flow_m3s;
        if (!d.shutIn || members.size() == 1) head = d.head_m;
        warns = warns || (d.worst <= Severity::broken && d.runs);
        if (members.size() == 1) {
          if (!d.runs) duty = tr("off");
          else if (d.shutIn) duty = tr("dead-headed");
          if (d.ofBest && d.runs) right = QString("%1 %").arg(*d.ofBest * 100, 0, 'f', 0);
        } else {
          duty = QString();
        }
      }
      if (members.size() > 1) {
        QStringList names;
        for (const Id id : members)
          if (const Element* one = doc_.network().find(id)) names << QString::fromStdString(one->name);
        name = names.join(" + ");
      }
      if (duty.isEmpty())
        duty = said(flow, Measure::volumeFlow, 3) + "   " + said(head, Measure::headDrop, 4);
    } else if (there) {
      const ReadingOf r(solved->network, solved->solution, row->place());
      const auto out = outcomeOf(*e->part, e->part->ends == Ends::many ? key::flowOut : key::flowIn, *r);
      if (e->part->ends == Ends::self) duty = tr("point");
      else if (out)
        duty = *out >= 0 ? tr("supplies %1").arg(said(*out, Measure::volumeFlow, 3))
                         : tr("takes %1").arg(said(-*out, Measure::volumeFlow, 3));
    }
    row->show(name, duty, right, warns, e->part->symbol, look_);
    row->setChecked(row->place() == place_ && row->together() == together_);
  }
  fold_->setText(tr("Supplies as pumps  %1 %2").arg(supplies).arg(open_ ? "▴" : "▾"));
  fold_->setVisible(supplies > 0);
  // A tick for each other case.
  std::set<CaseId> ids;
  for (const CaseId id : doc_.model().cases.ids()) ids.insert(id);
  for (auto it = ticks_.begin(); it != ticks_.end();) {
    if (ids.contains(it->first)) ++it;
    else it->second->deleteLater(), tickedCases_.erase(it->first), it = ticks_.erase(it);
  }
  for (const CaseId id : doc_.model().cases.ids()) {
    QCheckBox*& box = ticks_[id];
    if (!box) {
      box = new QCheckBox;
      box->setObjectName(QString("pumps.case.%1").arg(id));
      cases_->addWidget(box);
      connect(box, &QCheckBox::clicked, this, [this, id](bool on) { tick(id, on); });
    }
    const bool current = id == doc_.currentCase();
    box->setText(QString::fromStdString(doc_.model().cases.find(id)->name));
    box->setChecked(current || tickedCases_.contains(id));
    box->setEnabled(!current);
  }
  headings_.back()->setVisible(ticks_.size() > 1);
  for (const auto& [id, box] : ticks_) box->setVisible(ticks_.size() > 1);
  refreshFields();
}

void Places::takeKeyboard() {
  for (PlaceRow* row : all_)
    if (row->isChecked()) return row->setFocus();
  setFocus();
}

void Places::refreshFields() {
  const Element* e = place_ == noId ? nullptr : doc_.network().find(place_);
  const bool supply = e && !e->part->lifts;
  sharing_->setVisible(supply);
  for (QWidget* w : std::initializer_list<QWidget*>{share_, least_})
    w->setEnabled(mode_->currentIndex() == 1);
  if (supply) {
    std::vector<std::pair<QString, QVariant>> choices;
    if (mode_->currentIndex() == 0) choices.emplace_back(tr("unchanged"), noId);
    doc_.network().each([&](Id id, const Element& o) {
      if (id != place_ && o.part->holdsHead) choices.emplace_back(QString::fromStdString(o.name), id);
    });
    offer(*other_, choices, other_->currentData());
    if (least_->text().isEmpty())
      least_->setText(QString::fromStdString(givenWithUnit(2e5, Measure::gaugePressure, doc_.units())));
  }
  const PumpRequest* asked =
      place_ == noId ? nullptr : requestAt(doc_.model().of<PumpRequests>().all, place_);
  static const PumpRequest none;
  const Values& about = asked ? asked->about : none.about;
  for (const auto& [key, edit] : fields_) {
    edit->setEnabled(place_ != noId);
    const Given* given = about.get<Given>(key);
    if (!edit->hasFocus() || !edit->isModified()) {
      const QString typed = given ? QString::fromStdString(given->typed) : QString();
      if (edit->text() != typed) edit->setText(typed);
    }
    QString quiet;
    if (key == request::flow && foundFlow_)
      quiet = QString::fromStdString(withUnit(*foundFlow_, Measure::volumeFlow, doc_.units(), 3));
    else if (key == request::head && foundHead_)
      quiet = QString::fromStdString(withUnit(*foundHead_, Measure::headDrop, doc_.units(), 4));
    else if (key == request::units) quiet = tr("as now");
    else if (key == request::shortBy) quiet = "10 %";
    else if (key == request::overBy) quiet = "30 %";
    else if (key == request::margin) quiet = tr("job default");
    else quiet = tr("any");
    edit->setPlaceholderText(quiet);
  }
  for (const auto& [key, slider] : weights_) {
    slider->setEnabled(place_ != noId);
    if (!slider->isSliderDown())
      slider->setValue(static_cast<int>(std::lround(askedOf(about, key).value_or(0.0) * 100)));
  }
  // What is seldom asked stands folded away, until something of it is.
  bool given = false;
  for (const std::string_view key : {request::units, request::shortBy, request::overBy, request::solids,
                                     request::speed, request::construction})
    given = given || about.find(key);
  const bool more = more_ || given;
  for (const std::string_view key :
       {request::units, request::shortBy, request::overBy, request::solids, request::speed})
    fields_[key]->setVisible(more), labels_[key]->setVisible(more);
  construction_->setVisible(more), builtWords_->setVisible(more);
  moreFold_->setVisible(!given);
  moreFold_->setText(more_ ? tr("less ▴") : tr("more ▾"));
  const std::string* built = about.get<std::string>(request::construction);
  construction_->setCurrentIndex(std::max(
      0, construction_->findData(built ? QString::fromStdString(*built) : text(pump::constructions[0]))));
}

}  // namespace conduit::desktop
