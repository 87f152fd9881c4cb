#include "desks/cases/sweep_pane.h"

#include <QComboBox>
#include <QCompleter>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>
#include <fstream>

#include "cases/grid_edits.h"
#include "exchange/delimited.h"
#include "exchange/sweep_file.h"
#include "exchange/table_file.h"
#include "look/choices.h"
#include "look/elided_label.h"
#include "look/words.h"
#include "model/sweep_setup.h"
#include "model/watched.h"
#include "plot/plot.h"
#include "quantity/format.h"

namespace conduit::desktop {
namespace {

constexpr std::size_t pointsAtRest = 2000;  // so many are run again by themselves when the model changes

QLineEdit* fieldIn(QHBoxLayout* line, const QString& name, const QString& says, const QString& hint,
                   int wide) {
  auto* edit = new QLineEdit;
  edit->setObjectName(name);
  edit->setAccessibleName(says);
  edit->setPlaceholderText(hint);
  edit->setToolTip(says);
  edit->setMinimumWidth(wide * 2 / 3);
  edit->setFixedHeight(24);
  line->addWidget(edit, wide);
  return edit;
}

}  // namespace

SweepPane::SweepPane(Document& document, QWidget* parent)
    : QWidget(parent), doc_(document), look_(Look::light()) {
  setObjectName("sweep");
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 5, 12, 6);
  all->setSpacing(4);
  auto* top = new QHBoxLayout;
  title_ = new QLabel(tr("Sweep"));
  status_ = new QLabel;
  status_->setObjectName("sweep.status");
  status_->setTextFormat(Qt::RichText);
  status_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  links_ = new QLabel;
  links_->setObjectName("sweep.links");
  fold_ = new QToolButton;
  fold_->setObjectName("sweep.fold");
  fold_->setAccessibleName(tr("Hide the sweep"));
  top->addWidget(title_);
  top->addSpacing(8);
  top->addWidget(status_, 1);
  top->addWidget(links_);
  top->addWidget(fold_);
  all->addLayout(top);
  setup_ = new QWidget;
  auto* line = new QHBoxLayout(setup_);
  line->setContentsMargins(0, 0, 0, 0);
  line->setSpacing(6);
  vary_ = fieldIn(line, "sweep.vary", tr("Value to vary: an element and one of its fields"), tr("B-1 speed"),
                  100);
  line->addWidget(new QLabel(tr("over")));
  over_ = fieldIn(line, "sweep.over",
                  tr("Its values: 2600 rpm to 2980 rpm in 20 steps, a list, or sizes of a standard"),
                  tr("2600 rpm to 2980 rpm in 20"), 150);
  line->addWidget(new QLabel(tr("and")));
  varyToo_ = fieldIn(line, "sweep.vary2", tr("Second value to vary, one curve per value"), tr("none"), 90);
  line->addWidget(new QLabel(tr("over")));
  overToo_ = fieldIn(line, "sweep.over2", tr("Range of the second value"), QString(), 80);
  go_ = new QToolButton;
  go_->setObjectName("sweep.go");
  rows_ = new QToolButton;
  rows_->setObjectName("sweep.rows");
  rows_->setText(tr("from table …"));
  rows_->setToolTip(tr("Each row of a CSV table is one point; its headings name the given values"));
  line->addWidget(go_);
  line->addWidget(rows_);
  all->addWidget(setup_);
  figure_ = new QWidget;
  auto* below = new QVBoxLayout(figure_);
  below->setContentsMargins(0, 0, 0, 0);
  below->setSpacing(2);
  auto* shown = new QHBoxLayout;
  drawn_ = new QComboBox;
  drawn_->setObjectName("sweep.drawn");
  drawn_->setAccessibleName(tr("Result plotted"));
  drawnToo_ = new QComboBox;
  drawnToo_->setObjectName("sweep.drawn2");
  drawnToo_->setAccessibleName(tr("Second result plotted"));
  read_ = new ElidedLabel;
  read_->setObjectName("sweep.read");
  read_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  for (QComboBox* box : {drawn_, drawnToo_})
    box->setMinimumWidth(110);  // as wide as its words while there is room
  shown->addWidget(drawn_);
  shown->addWidget(drawnToo_);
  shown->addWidget(read_, 1);
  below->addLayout(shown);
  plot_ = new Plot;
  plot_->setMinimumHeight(120);
  below->addWidget(plot_, 1);
  all->addWidget(figure_, 1);
  hint_ =
      new QLabel(tr("Enter the value to vary and its range, then press Enter; watched results are plotted."));
  hint_->setAlignment(Qt::AlignLeft | Qt::AlignTop);
  all->addWidget(hint_, 1);
  for (QLineEdit* edit : {vary_, over_, varyToo_, overToo_}) {
    connect(edit, &QLineEdit::editingFinished, this, &SweepPane::keepSetup);
    connect(edit, &QLineEdit::returnPressed, this, &SweepPane::run);
  }
  connect(go_, &QToolButton::clicked, this, [this] { running() ? stop() : run(); });
  connect(rows_, &QToolButton::clicked, this, [this] {
    const QString file = QFileDialog::getOpenFileName(this, tr("Points from a table"), doc_.folder(),
                                                      tr("Tables (*.csv *.txt *.tsv)"));
    if (!file.isEmpty()) runRows(file);
  });
  for (QComboBox* box : {drawn_, drawnToo_})
    connect(box, &QComboBox::activated, this, [this] { keepSetup(), show(); });
  connect(fold_, &QToolButton::clicked, this, [this] {
    open_ = !open_;
    refresh();
    emit folded(!open_);
  });
  for (QLabel* label : {links_, status_, read_}) {
    label->setTextInteractionFlags(Qt::LinksAccessibleByMouse | Qt::LinksAccessibleByKeyboard);
    connect(
        label, &QLabel::linkActivated, this,
        [this](const QString& link) {
          if (link == "table") saveTable();
          else if (link == "picture") savePicture();
          else if (link == "again") run();
          else if (link == "give") giveBack();
        },
        Qt::QueuedConnection);
  }
  connect(plot_, &Plot::pointed, this, [this](double x) {
    if (!pinned_) readOff(x);
  });
  // A click keeps the reading, so that the hand can go to its link; another click lets it go.
  connect(plot_, &Plot::clicked, this, [this](double x) {
    pinned_ = !(pinned_ && result_ && nearest(x) == pointed_);
    readOff(x);
  });
  rest_.setSingleShot(true);
  rest_.setInterval(700);
  connect(&rest_, &QTimer::timeout, this, [this] {
    if (isVisible() && !running() && result_ && stamp_ != doc_.history().stamp() &&
        result_->points.size() <= pointsAtRest && !sweep_.rows)
      run();
  });
  connect(&doc_, &Document::changed, this, [this] {
    if (result_) rest_.start();
  });
  connect(&doc_, &Document::caseChanged, this, [this] {
    if (result_) rest_.start();
  });
  doc_.watch(work_);
  connect(&work_, &Background::ended, this, &SweepPane::refresh);
  connect(&doc_, &Document::replaced, this, [this] {
    work_.leave();
    result_.reset();
    begun_ = false;
  });
  refresh();
}

SweepPane::~SweepPane() = default;

void SweepPane::focusSetup() {
  if (!open_) fold_->click();
  vary_->setFocus();
}

void SweepPane::setLook(const Look& look) {
  look_ = look;
  title_->setFont(face(13, true));
  for (QLabel* label : setup_->findChildren<QLabel*>())
    label->setStyleSheet(QString("color: %1").arg(look_.ink2.name()));
  plot_->setLook(look);
  refresh();
}

void SweepPane::keepSetup() {
  begun_ = true;  // from now on by hand
  SweepSetup now{
      vary_->text().trimmed().toStdString(),          over_->text().trimmed().toStdString(),
      varyToo_->text().trimmed().toStdString(),       overToo_->text().trimmed().toStdString(),
      drawn_->currentData().toString().toStdString(), drawnToo_->currentData().toString().toStdString()};
  if (!(now == doc_.model().of<SweepSetup>())) doc_.takeModel(setSweep(doc_.model(), std::move(now)));
}

void SweepPane::refresh() {
  const SweepSetup& s = doc_.model().of<SweepSetup>();
  const std::pair<QLineEdit*, const std::string*> fields[] = {
      {vary_, &s.vary}, {over_, &s.over}, {varyToo_, &s.varyToo}, {overToo_, &s.overToo}};
  for (const auto& [edit, words] : fields)
    if (const QString text = QString::fromStdString(*words); !edit->hasFocus() && edit->text() != text)
      edit->setText(text);
  std::vector<std::pair<QString, QVariant>> choices;
  for (const Watched& w : doc_.model().of<WatchedResults>().all)
    choices.emplace_back(QString::fromStdString(wordsOf(w, doc_.model().drawn).all()),
                         QString::fromStdString(typedText(w, doc_.model().drawn)));
  offer(*drawn_, choices, QString::fromStdString(s.drawn));
  choices.insert(choices.begin(), {tr("none"), QString()});
  offer(*drawnToo_, choices, QString::fromStdString(s.drawnToo));
  fold_->setText(open_ ? "▾" : "▴");
  setup_->setVisible(open_);
  figure_->setVisible(open_ && result_ != nullptr);
  hint_->setVisible(open_ && result_ == nullptr);
  hint_->setStyleSheet(QString("color: %1").arg(look_.ink2.name()));
  // What a model brings along is drawn when it is first looked at.
  if (isVisible() && !begun_ && !s.vary.empty() && !s.over.empty()) {
    begun_ = true;
    QTimer::singleShot(0, this, [this] {
      if (!running() && !result_) run();
    });
  }
  go_->setText(running() ? tr("stop") : tr("run"));
  go_->setAccessibleName(running() ? tr("Stop the sweep") : tr("Run the sweep"));
  show();
}

void SweepPane::run() {
  const SweepSetup s{vary_->text().trimmed().toStdString(),
                     over_->text().trimmed().toStdString(),
                     varyToo_->text().trimmed().toStdString(),
                     overToo_->text().trimmed().toStdString(),
                     {},
                     {}};
  if (s.vary.empty()) return;
  keepSetup();
  Sweep sweep{.in = doc_.currentCase(), .watched = doc_.model().of<WatchedResults>().all};
  if (sweep.watched.empty()) {
    emit doc_.refused(tr("No watched results: add a row such as Gun 1 pressure above, then run the sweep."));
    return;
  }
  const Network& network = doc_.network();
  for (const auto& [what, over] : {std::pair{&s.vary, &s.over}, std::pair{&s.varyToo, &s.overToo}}) {
    if (what->empty()) continue;
    auto vary = readVary(*what, *over, network, *doc_.stock(), doc_.units());
    if (!vary) {
      emit doc_.refused(QString::fromStdString(vary.error().what));
      return;
    }
    sweep.columns.push_back(std::move(*vary));
  }
  if (const auto twice = variedTwice(sweep.columns); !twice.empty()) {
    emit doc_.refused(QString::fromStdString(twice) + ".");
    return;
  }
  if (sweep.points() > pointsMost) {
    emit doc_.refused(tr("%1 points; the maximum is %2.")
                          .arg(QString::fromStdString(counted(sweep.points())),
                               QString::fromStdString(counted(pointsMost))));
    return;
  }
  start(std::move(sweep));
}

void SweepPane::runRows(const QString& file) {
  std::ifstream in(file.toStdString(), std::ios::binary);
  const std::string text{std::istreambuf_iterator<char>(in), {}};
  const Grid grid = readGrid(text, guessDialect(text));
  auto columns = grid.headings.empty() || grid.tooMuch
                     ? Result<std::vector<Vary>>(
                           tl::unexpected(Problem{{},
                                                  grid.tooMuch ? "the table is too long or too wide"
                                                               : "the first row must name the given values",
                                                  {}}))
                     : readColumns(grid.headings, grid.rows, doc_.network(), doc_.units());
  if (!columns) {
    emit doc_.refused(
        QString("%1: %2").arg(file.section('/', -1), QString::fromStdString(columns.error().what)));
    return;
  }
  Sweep sweep{.in = doc_.currentCase(),
              .columns = std::move(*columns),
              .rows = true,
              .watched = doc_.model().of<WatchedResults>().all};
  if (sweep.watched.empty()) {
    emit doc_.refused(tr("No watched results: add a row such as Gun 1 pressure above, then run the table."));
    return;
  }
  start(std::move(sweep));
}

void SweepPane::start(Sweep sweep) {
  sweep_ = std::move(sweep);
  pointing_ = pinned_ = false;
  stamp_ = doc_.history().stamp();
  work_.begin([this, model = doc_.model(), what = sweep_, stock = doc_.sharedStock(), units = doc_.units()](
                  const Background::Post& post, std::stop_token stop) {
    SweepOptions options;
    options.units = units;
    options.jobs.stop = std::move(stop);
    options.jobs.progress = [this, &post, last = std::chrono::steady_clock::time_point()](
                                std::size_t done, std::size_t of) mutable {
      const auto now = std::chrono::steady_clock::now();
      if (now - last < std::chrono::milliseconds(100) && done < of) return;
      last = now;
      post([this, done, of] { status_->setText(tr("%1 of %2 points …").arg(done).arg(of)); });
    };
    auto result = std::make_shared<SweepResult>(runSweep(model, what, stock, options));
    post([this, result] { result_ = result; });
  });
  refresh();
}

double SweepPane::xOf(std::size_t k) const {
  if (sweep_.rows || sweep_.columns.front().si.empty()) return static_cast<double>(k);
  return inUnit(sweep_.columns.front().si[k], doc_.units().unitFor(sweep_.columns.front().measure));
}

std::size_t SweepPane::nearest(double x) const {
  const std::size_t n = sweep_.rows ? result_->points.size() : sweep_.columns.front().texts.size();
  std::size_t best = 0;
  for (std::size_t k = 1; k < n; ++k)
    if (std::abs(xOf(k) - x) < std::abs(xOf(best) - x)) best = k;
  return best;
}

// Draws what was solved; says how it went and what is older.
void SweepPane::show() {
  const QString quiet = look_.ink2.name(), water = look_.water.name(), warning = look_.warning.name();
  const auto link = [&](const char* to, const QString& words) {
    return QString("<a href='%1' style='color:%2'>%3</a>").arg(to, water, words);
  };
  links_->setText(result_ && !running() ? link("table", tr("export table")) + "&nbsp;&nbsp; " +
                                              link("picture", tr("export picture"))
                                        : QString());
  if (running()) {
    if (status_->text().isEmpty() || !status_->text().contains("points")) status_->setText(tr("solving …"));
    return;
  }
  if (!result_) {
    status_->setText(
        QString("<span style='color:%1'>%2</span>")
            .arg(quiet, tr("one or two given values of the current case over a range, list or sizes")));
    return;
  }
  const Case* in = doc_.model().cases.find(sweep_.in);
  std::size_t unsolved = 0, missing = 0;
  std::string why;
  for (const SweepPoint& p : result_->points) {
    missing += p.end == SweepPoint::End::missing ? 1 : 0;
    if (p.end == SweepPoint::End::solved || p.end == SweepPoint::End::missing) continue;
    if (unsolved++ == 0) why = p.why;
  }
  QString status = tr("%1 points, case %2")
                       .arg(result_->points.size())
                       .arg(in ? QString::fromStdString(in->name).toHtmlEscaped() : "?");
  if (unsolved > 0)
    status += QString("&nbsp;&nbsp; <span style='color:%1'>▲ %2</span>")
                  .arg(warning, tr("%1 without a solution: %2")
                                    .arg(unsolved)
                                    .arg(QString::fromStdString(why).toHtmlEscaped()));
  if (missing > 0) status += "&nbsp;&nbsp; " + tr("stopped: %1 are missing").arg(missing);
  if (stamp_ != doc_.history().stamp())
    status += "&nbsp;&nbsp; <i>" + tr("out of date") + "</i> " + link("again", tr("run again"));
  status_->setText(QString("<span style='color:%1'>%2</span>").arg(quiet, status));
  if (sweep_.columns.empty()) return;
  PlotData data;
  const UnitSet& units = doc_.units();
  const Vary& x = sweep_.columns.front();
  const bool number = !sweep_.rows && !x.si.empty();
  const Unit& xUnit = units.unitFor(x.measure);
  data.xLabel = sweep_.rows ? tr("row")
                            : QString::fromStdString(x.words) +
                                  (number && !xUnit.symbol.empty() ? "  " + text(xUnit.symbol) : QString());
  const std::size_t n = sweep_.rows ? result_->points.size() : x.texts.size(),
                    curves = sweep_.rows || sweep_.columns.size() < 2 ? 1 : sweep_.columns[1].texts.size();
  if (!number && n <= 40)
    for (std::size_t k = 0; k < n; ++k)
      data.ticks.push_back(sweep_.rows ? QString::number(k + 1) : QString::fromStdString(x.texts[k]));
  data.now = NAN;
  std::optional<Measure> first;
  std::optional<std::size_t> drawnFirst;
  // The limit as the case has it now.
  const SolvedPtr& solved = doc_.solved();
  const auto limitOf = [&](std::size_t w) -> std::optional<double> {
    if (!solved || !solved->usable()) return std::nullopt;
    const WatchedValue v = valueOf(sweep_.watched[w], solved->network, solved->solution, units);
    return v.least ? v.least : v.most;
  };
  int drawn = 0;
  for (const QComboBox* box : {drawn_, drawnToo_}) {
    const std::string typed = box->currentData().toString().toStdString();
    if (typed.empty()) continue;
    const auto at = std::find_if(sweep_.watched.begin(), sweep_.watched.end(),
                                 [&](const Watched& w) { return typedText(w, doc_.model().drawn) == typed; });
    if (at == sweep_.watched.end()) continue;
    const auto w = static_cast<std::size_t>(at - sweep_.watched.begin());
    const auto measure = measureOf(*at, doc_.model().drawn);
    if (!measure) continue;
    const bool right = first && *first != *measure;
    if (!first) first = measure, drawnFirst = w;
    if (const auto limit = limitOf(w))
      data.limits.emplace_back(inUnit(*limit, units.unitFor(*measure)), right);
    const Unit& unit = units.unitFor(*measure);
    const QString words = QString::fromStdString(wordsOf(*at, doc_.model().drawn).all());
    (right ? data.rightLabel : data.yLabel) = text(unit.symbol);
    for (std::size_t c = 0; c < curves && c < 12; ++c) {
      PlotCurve curve;
      curve.name = curves > 1 ? QString::fromStdString(sweep_.columns[1].texts[c]) +
                                    (box == drawn_ ? QString() : ", " + words)
                              : words;
      curve.right = right, curve.dashed = box != drawn_;
      curve.tone = curves > 1 ? 2 + static_cast<int>(c) : drawn;
      for (std::size_t k = 0; k < n; ++k) {
        const SweepPoint& p = result_->points[k * curves + c];
        curve.x.push_back(xOf(k));
        curve.y.push_back(p.end == SweepPoint::End::solved ? inUnit(p.si[w], unit) : NAN);
      }
      data.curves.push_back(std::move(curve));
    }
    ++drawn;
  }
  // Shaded: where every limit is kept; where that is nowhere, where what is drawn keeps its own.
  QStringList notes;
  if (number && curves == 1) {
    auto kept = keptBetween(sweep_, *result_);
    QString what = tr("all limits met");
    if (kept.empty() && drawnFirst) {
      notes << tr("no point meets all limits");
      const SweepPoint& any = result_->points.front();
      const auto least = limitOf(*drawnFirst);
      if (least && !any.broken.empty()) kept = keptBetween(sweep_, *result_, drawnFirst);
      what = tr("%1 meets its limit")
                 .arg(QString::fromStdString(wordsOf(sweep_.watched[*drawnFirst], doc_.model().drawn).all()));
    }
    for (const auto& [from, to] : kept) data.shaded.emplace_back(inUnit(from, xUnit), inUnit(to, xUnit));
    if (!kept.empty())
      notes << tr("%1 from %2 to %3 %4")
                   .arg(what, QString::fromStdString(digits(data.shaded.front().first, 4)),
                        QString::fromStdString(digits(data.shaded.front().second, 4)), text(xUnit.symbol));
  }
  // Where the case itself stands.
  if (const Element* e = number && !x.outcome ? doc_.network().find(x.element) : nullptr)
    if (const Given* now = e->given(x.key); now && now->basis == Basis::direct)
      data.now = inUnit(now->value, xUnit);
  if (curves > 12) notes << tr("12 of %1 curves shown").arg(curves);
  if (!pointing_) read_->setText(QString("<span style='color:%1'>%2</span>").arg(quiet, notes.join("; ")));
  plot_->display(std::move(data));
}

void SweepPane::readOff(double x) {
  if (!result_ || result_->points.empty()) return;
  const std::size_t k = nearest(x),
                    curves = sweep_.rows || sweep_.columns.size() < 2 ? 1 : sweep_.columns[1].texts.size();
  pointed_ = k, pointing_ = true;
  plot_->point(xOf(k));
  const UnitSet& units = doc_.units();
  QString words =
      QString("<b>%1</b>")
          .arg(sweep_.rows ? tr("row %1").arg(k + 1)
                           : QString::fromStdString(sweep_.columns.front().texts[k]).toHtmlEscaped());
  const SweepPoint& p = result_->points[k * curves];
  if (p.end == SweepPoint::End::solved) {
    for (std::size_t w = 0; w < sweep_.watched.size(); ++w) {
      const std::string typed = typedText(sweep_.watched[w], doc_.model().drawn);
      if (drawn_->currentData().toString().toStdString() != typed &&
          drawnToo_->currentData().toString().toStdString() != typed)
        continue;
      const auto measure = measureOf(sweep_.watched[w], doc_.model().drawn);
      if (measure && std::isfinite(p.si[w]))
        words += QString("&nbsp;&nbsp; <span style='color:%1'>%2</span>")
                     .arg((p.broken[w] ? look_.warning : look_.ink).name(),
                          (p.broken[w] ? "▲ " : "") +
                              QString::fromStdString(withUnit(p.si[w], *measure, units, 3)));
    }
    if (p.limitsBroken > 0) words += "&nbsp;&nbsp; " + tr("%1 not met").arg(p.limitsBroken);
  } else {
    words += "&nbsp;&nbsp; " + QString::fromStdString(p.why).toHtmlEscaped();
  }
  if (!sweep_.rows && sweep_.columns.size() == 1)
    words += QString("&nbsp;&nbsp; <a href='give' style='color:%1'>%2</a>")
                 .arg(look_.water.name(), tr("use this value"));
  read_->setText(words);
}

// The value pointed at, into the case it was swept in.
void SweepPane::giveBack() {
  if (!pointing_ || !result_ || sweep_.rows || sweep_.columns.size() != 1) return;
  const Vary& x = sweep_.columns.front();
  const CellText cell{sweep_.in,
                      x.outcome ? GridRow::Kind::given : GridRow::Kind::field,
                      {x.element},
                      x.key,
                      x.texts[pointed_]};
  doc_.takeModel(setCells(doc_.model(), {&cell, 1}, doc_.stock(), &doc_.units()));
}

void SweepPane::saveTable() {
  if (!result_) return;
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export sweep table"), {}, tr("Tables (*.xlsx *.csv)"));
  if (path.isEmpty()) return;
  const SweepRecord record = recordOf(doc_.model(), sweep_, *result_, {.units = doc_.units(), .jobs = {}});
  const auto done = writeTable(path.toStdString(), tableOf(record));
  if (!done) emit doc_.refused(QString::fromStdString(done.error().what));
}

void SweepPane::savePicture() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Export sweep picture"), {}, tr("Pictures (*.svg *.png)"));
  if (!path.isEmpty() && !plot_->save(path)) emit doc_.refused(tr("%1 could not be written").arg(path));
}

}  // namespace conduit::desktop
