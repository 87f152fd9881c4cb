#include "drawer/import_page.h"

#include <sys/resource.h>
#include <QFile>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QProcess>
#include <QStandardPaths>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

#include "json/limits.h"
#include "look/words.h"
#include "parts/registry.h"

namespace conduit::desktop {
namespace {

constexpr int sampleRows = 60;
constexpr qint64 largestTable = qint64{256} << 20;
constexpr rlim_t sheetMemory = rlim_t{768} << 20,
                 sheetSeconds = 60;  // of the process that reads a spreadsheet

}  // namespace

ImportPage::ImportPage(Document& document, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      look_(Look::light()),
      sourceLabel_(new QLabel),
      status_(new QLabel),
      kind_(new QComboBox),
      separator_(new QComboBox),
      decimal_(new QComboBox),
      encoding_(new QComboBox),
      headings_(new QCheckBox(tr("headings"))),
      makePoints_(new QCheckBox(tr("create missing points"))),
      sheet_(new QSpinBox),
      table_(new QTableWidget),
      refused_(new QListWidget),
      progress_(new QProgressBar),
      take_(new QPushButton(tr("Import"))),
      leave_(new QPushButton(tr("Cancel"))) {
  setObjectName("import");
  setAccessibleName(tr("Import"));
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(16, 6, 16, 6);
  layout->setSpacing(5);
  auto* how = new QHBoxLayout;
  how->setSpacing(8);
  auto box = [&](QComboBox* combo, const char* name, const QString& words, const QStringList& items) {
    combo->setObjectName(name);
    combo->setAccessibleName(words);
    combo->setToolTip(words);
    combo->addItems(items);
    how->addWidget(combo);
    connect(combo, &QComboBox::activated, this, [this] {
      dialect_.separator =
          std::string_view("\t;,|")[static_cast<std::size_t>(std::max(0, separator_->currentIndex()))];
      dialect_.decimalComma = decimal_->currentIndex() == 1;
      dialect_.encoding = static_cast<Encoding>(std::max(0, encoding_->currentIndex()));
      reread();
    });
  };
  how->addWidget(sourceLabel_, 1);
  sheet_->setObjectName("import.sheet");
  sheet_->setAccessibleName(tr("Sheet of the spreadsheet"));
  sheet_->setPrefix(tr("sheet "));
  sheet_->setRange(1, 200);
  how->addWidget(sheet_);
  connect(sheet_, &QSpinBox::valueChanged, this, [this] {
    if (!filling_ && !sheetFile_.isEmpty()) convertSheet();
  });
  kind_->setObjectName("import.kind");
  kind_->setAccessibleName(tr("Kind of each row"));
  kind_->setToolTip(kind_->accessibleName());
  kind_->addItem(tr("kind from a column"), QString());
  for (const Part* part : allParts())
    if (part->ends != Ends::none) kind_->addItem(text(part->plural), text(part->key));
  how->addWidget(kind_);
  connect(kind_, &QComboBox::activated, this, [this] {
    wantedKind_ = findPart(kind_->currentData().toString().toStdString());
    wantedColumns_.clear();
    plan_ = proposePlan(grid_, dialect_, wantedKind_, doc_.units());
    plan_.kind = wantedKind_;
    plan_.makePoints = makePoints_->isChecked();
    showTable();
    begin();
  });
  box(separator_, "import.separator", tr("Separator"),
      {tr("tab"), tr("semicolon"), tr("comma"), tr("vertical bar")});
  box(decimal_, "import.decimal", tr("Decimal mark"), {tr("1.5"), tr("1,5")});
  box(encoding_, "import.encoding", tr("Encoding"), {"UTF-8", "UTF-16", tr("Latin")});
  headings_->setObjectName("import.headings");
  headings_->setToolTip(tr("The first row names the columns"));
  makePoints_->setObjectName("import.points");
  makePoints_->setToolTip(tr("Create end points that are named but do not exist"));
  how->addWidget(headings_);
  how->addWidget(makePoints_);
  connect(headings_, &QCheckBox::clicked, this, [this](bool on) {
    dialect_.headings = on;
    reread();
  });
  connect(makePoints_, &QCheckBox::clicked, this, [this](bool on) {
    plan_.makePoints = on;
    begin();
  });
  layout->addLayout(how);
  auto* middle = new QHBoxLayout;
  table_->setObjectName("import.table");
  table_->setAccessibleName(tr("Table and column assignment"));
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->verticalHeader()->setDefaultSectionSize(21);
  table_->horizontalHeader()->setDefaultSectionSize(128);
  refused_->setObjectName("import.refused");
  refused_->setAccessibleName(tr("Refused rows"));
  refused_->setWordWrap(true);
  refused_->setMaximumWidth(380);
  middle->addWidget(table_, 1);
  middle->addWidget(refused_);
  layout->addLayout(middle, 1);
  auto* foot = new QHBoxLayout;
  status_->setObjectName("import.status");
  progress_->setRange(0, 1000);
  progress_->setTextVisible(false);
  progress_->setFixedSize(160, 8);
  take_->setObjectName("import.take");
  leave_->setObjectName("import.leave");
  foot->addWidget(status_, 1);
  foot->addWidget(progress_);
  foot->addWidget(leave_);
  foot->addWidget(take_);
  layout->addLayout(foot);
  connect(take_, &QPushButton::clicked, this, &ImportPage::take);
  connect(leave_, &QPushButton::clicked, this, &ImportPage::leave);
  connect(&doc_, &Document::changed, this, [this] {
    if (open_) begin();  // against the model as it now is
  });
  doc_.watch(work_);
  connect(&work_, &Background::failed, this, [this](const QString& why) {
    problem_ = why;
    showResult();
  });
}

ImportPage::~ImportPage() { stopSheet(); }

void ImportPage::setLook(const Look& look) {
  look_ = look;
  sourceLabel_->setFont(face(12.5, true));
  table_->setFont(face(12));
  table_->horizontalHeader()->setFont(face(11));
  refused_->setFont(face(12));
  take_->setStyleSheet(QString("QPushButton { background: %1; color: %2; padding: 3px 14px; } "
                               "QPushButton:disabled { background: %3; color: %4; }")
                           .arg(look.water.name(), (look.dark ? look.paper : look.field).name(),
                                look.grid.name(), look.ink2.name()));
  showResult();
}

void ImportPage::openFile(const QString& path) {
  const QString kind = QFileInfo(path).suffix().toLower();
  sheetFile_.clear();
  stopSheet();
  if (QFileInfo::exists(path) && !QFileInfo(path).isFile()) {
    emit doc_.refused(tr("%1 is not a regular file").arg(path));
    return;
  }
  if (QFileInfo(path).size() > largestTable) {
    emit doc_.refused(tr("%1 is larger than %2 MiB").arg(path).arg(largestTable >> 20));
    return;
  }
  if (kind == "xlsx") {
    sheetFile_ = path;
    filling_ = true;
    sheet_->setValue(1);
    filling_ = false;
    convertSheet();
    return;
  }
  QFile file(path);
  if (!file.open(QIODevice::ReadOnly)) {
    emit doc_.refused(tr("%1 cannot be read: %2").arg(path, file.errorString()));
    return;
  }
  const QByteArray bytes = file.readAll();
  const bool json = kind == "geojson" || kind == "json";
  if (json) {
    auto grid = gridOfGeoJson(std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
    if (!grid) {
      emit doc_.refused(
          tr("%1: %2").arg(QFileInfo(path).fileName(), QString::fromStdString(grid.error().what)));
      return;
    }
    openText({}, QFileInfo(path).fileName());
    fixedGrid_ = std::move(*grid);
    propose();
    return;
  }
  openText(bytes, QFileInfo(path).fileName());
}

// The packaged converter writes a sheet as text of tables, in a process of its own that may take so much time
// and memory and write so much; leaving the page ends it.
void ImportPage::convertSheet() {
  const QString program = QStandardPaths::findExecutable("xlsx2csv");
  if (program.isEmpty()) {
    emit doc_.refused(tr("XLSX files need the package xlsx2csv: install it, or save the sheet as CSV"));
    return;
  }
  stopSheet();
  struct Conversion {
    QByteArray out;
    QString why;
  };
  auto* process = converter_ = new QProcess(this);
  const auto conversion = std::make_shared<Conversion>();
  const QString file = sheetFile_, name = QFileInfo(file).fileName();
  process->setChildProcessModifier([] {
    const rlimit memory{sheetMemory, sheetMemory}, time{sheetSeconds, sheetSeconds};
    (void)::setrlimit(RLIMIT_AS, &memory);
    (void)::setrlimit(RLIMIT_CPU, &time);
  });
  const auto giveUp = [process, conversion](const QString& why) {
    conversion->why = why;
    process->kill();
  };
  connect(process, &QProcess::readyReadStandardOutput, this, [process, conversion, giveUp] {
    conversion->out += process->readAllStandardOutput();
    if (conversion->out.size() > largestTable && conversion->why.isEmpty())
      giveUp(tr("the sheet is longer than %1 MiB as text").arg(largestTable >> 20));
  });
  QTimer::singleShot(2 * sheetSeconds * 1000, process,
                     [giveUp] { giveUp(tr("reading takes longer than %1 s").arg(2 * sheetSeconds)); });
  connect(process, &QProcess::finished, this,
          [this, process, conversion, file, name](int code, QProcess::ExitStatus status) {
            process->deleteLater();
            if (converter_ != process) return;  // left meanwhile
            stopSheet();
            const QByteArray words = process->readAllStandardError();
            conversion->out += process->readAllStandardOutput();
            QString why = conversion->why;
            if (why.isEmpty() && (words.contains("MemoryError") || status == QProcess::CrashExit))
              why =
                  tr("reading exceeds the limit of %1 MiB or %2 s").arg(sheetMemory >> 20).arg(sheetSeconds);
            if (why.isEmpty() && (code != 0 || conversion->out.isEmpty()))
              why = tr("not a valid spreadsheet, or it has no sheet %1").arg(sheet_->value());
            if (!why.isEmpty()) {
              if (!open_ || sheetFile_ == file) leave();
              emit doc_.refused(tr("%1 cannot be imported: %2").arg(name, why));
              return;
            }
            openText(conversion->out, name);
            sheetFile_ = file;
            sheet_->show();
          });
  process->start(program, {"-s", QString::number(sheet_->value()), "--", file});
  openText({}, tr("reading %1").arg(name));
  sheetFile_ = file;
  sourceLabel_->setText(source_);
  progress_->setRange(0, 0);
  progress_->show();
}

void ImportPage::stopSheet() {
  if (QProcess* running = std::exchange(converter_, nullptr)) running->kill();
  progress_->setRange(0, 1000);
}

void ImportPage::openText(const QByteArray& bytes, const QString& source, const Part* kind,
                          std::vector<ColumnUse> columns) {
  bytes_ = bytes;
  source_ = source;
  sheetFile_.clear();
  fixedGrid_.reset();
  wantedKind_ = kind;
  wantedColumns_ = std::move(columns);
  dialect_ = guessDialect(std::string_view(bytes_.constData(), static_cast<std::size_t>(bytes_.size())));
  plan_ = ImportPlan();
  result_.reset();
  open_ = true;
  emit opened();
  if (!bytes.isEmpty()) reread();
}

void ImportPage::reread() {
  if (!fixedGrid_)
    grid_ = readGrid(std::string_view(bytes_.constData(), static_cast<std::size_t>(bytes_.size())), dialect_);
  if (grid_.tooMuch) {
    leave();
    emit doc_.refused(tr("%1 has more than %2 columns or %3 cells: import it in parts")
                          .arg(source_)
                          .arg(columnsMost)
                          .arg(cellsMost));
    return;
  }
  propose();
}

void ImportPage::propose() {
  if (fixedGrid_) grid_ = *fixedGrid_;
  plan_ = proposePlan(grid_, dialect_, wantedKind_, doc_.units(), &doc_.network());
  // A block without headings takes the columns it was pasted on.
  if (grid_.headings.empty() && !wantedColumns_.empty())
    for (std::size_t c = 0; c < plan_.columns.size(); ++c)
      plan_.columns[c] = c < wantedColumns_.size() ? wantedColumns_[c] : ColumnUse{};
  makePoints_->setChecked(true);
  plan_.makePoints = true;
  showTable();
  begin();
}

void ImportPage::showTable() {
  filling_ = true;
  sourceLabel_->setText(tr("%1, %2 rows").arg(source_).arg(grid_.rows.size()));
  kind_->setCurrentIndex(std::max(0, kind_->findData(plan_.kind ? text(plan_.kind->key) : QString())));
  separator_->setCurrentIndex(static_cast<int>(std::string_view("\t;,|").find(dialect_.separator)));
  decimal_->setCurrentIndex(dialect_.decimalComma ? 1 : 0);
  encoding_->setCurrentIndex(static_cast<int>(dialect_.encoding));
  headings_->setChecked(dialect_.headings);
  for (QWidget* w : std::initializer_list<QWidget*>{separator_, decimal_, encoding_, headings_})
    w->setVisible(!fixedGrid_);
  sheet_->setVisible(!sheetFile_.isEmpty());
  choices_ = columnChoices(plan_.kind);
  const int columns = static_cast<int>(std::min<std::size_t>(grid_.columns, 200)),
            rows = static_cast<int>(std::min<std::size_t>(grid_.rows.size(), sampleRows));
  table_->clear();
  table_->setColumnCount(columns);
  table_->setRowCount(rows + 1);
  QStringList headings;
  for (int c = 0; c < columns; ++c) {
    const auto u = static_cast<std::size_t>(c);
    headings << (u < grid_.headings.size() && !grid_.headings[u].empty()
                     ? QString::fromStdString(grid_.headings[u])
                     : tr("column %1").arg(c + 1));
    auto* use = new QComboBox;
    use->setObjectName(QString("import.column.%1").arg(c));
    use->setAccessibleName(tr("Import %1 as").arg(headings.back()));
    for (const ColumnChoice& choice : choices_) use->addItem(QString::fromStdString(choice.words));
    const ColumnUse now = u < plan_.columns.size() ? plan_.columns[u] : ColumnUse{};
    const auto at = std::find_if(choices_.begin(), choices_.end(), [&](const ColumnChoice& choice) {
      return choice.use.is == now.is && choice.use.field == now.field;
    });
    use->setCurrentIndex(at == choices_.end() ? 0 : static_cast<int>(at - choices_.begin()));
    if (now.unit) use->setItemText(use->currentIndex(), QString::fromStdString(wordsOf(now)));
    connect(use, &QComboBox::activated, this, [this, u](int i) {
      plan_.columns[u] = choices_[static_cast<std::size_t>(i)].use;
      begin();
    });
    table_->setCellWidget(0, c, use);
  }
  table_->setHorizontalHeaderLabels(headings);
  QStringList lines{tr("import as")};
  for (int r = 0; r < rows; ++r) {
    const auto& row = grid_.rows[static_cast<std::size_t>(r)];
    lines << QString::number(grid_.line[static_cast<std::size_t>(r)]);
    for (int c = 0; c < columns && c < static_cast<int>(row.size()); ++c)
      table_->setItem(
          r + 1, c, new QTableWidgetItem(QString::fromStdString(row[static_cast<std::size_t>(c)]).left(200)));
  }
  table_->setVerticalHeaderLabels(lines);
  table_->setRowHeight(0, 26);
  filling_ = false;
}

void ImportPage::begin() {
  result_.reset();
  problem_.clear();
  progress_->setValue(0);
  showResult();
  work_.begin([this, network = doc_.network(), grid = grid_, plan = plan_, stock = doc_.sharedStock(),
               units = doc_.units()](const Background::Post& post, const std::stop_token& stop) {
    auto brought = importTable(
        network, grid, plan, stock.get(), units,
        [&](double share) { post([this, share] { progress_->setValue(static_cast<int>(share * 1000)); }); },
        stop);
    if (stop.stop_requested()) return;
    post([this, brought = std::make_shared<Result<Imported>>(std::move(brought))] {
      arrived(std::move(*brought));
    });
  });
}

void ImportPage::arrived(Result<Imported> brought) {
  if (!open_) return;
  if (brought) result_ = std::move(*brought);
  else problem_ = QString::fromStdString(brought.error().what);
  showResult();
}

void ImportPage::showResult() {
  refused_->clear();
  const bool any = result_ && result_->made + result_->changed > 0;
  take_->setEnabled(any);
  take_->setText(any ? tr("Import %1").arg(result_->made + result_->changed) : tr("Import"));
  progress_->setVisible(open_ && !result_ && problem_.isEmpty());
  QString words = !problem_.isEmpty() ? problem_
                  : result_           ? QString::fromStdString(result_->words())
                                      : tr("reading …");
  status_->setText(words);
  status_->setStyleSheet(QString("color: %1")
                             .arg(!problem_.isEmpty() || (result_ && result_->refusedCount > 0)
                                      ? look_.warning.name()
                                      : look_.ink.name()));
  std::set<std::size_t> bad;
  if (result_) {
    for (const RefusedRow& r : result_->refused) {
      if (refused_->count() < 300)
        refused_->addItem(tr("row %1, %2: %3")
                              .arg(r.line)
                              .arg(QString::fromStdString(r.column), QString::fromStdString(r.what)));
      bad.insert(r.row);
    }
    if (result_->refusedCount > 300) refused_->addItem(tr("and %1 more").arg(result_->refusedCount - 300));
  }
  refused_->setVisible(refused_->count() > 0);
  for (int r = 1; r < table_->rowCount(); ++r)
    for (int c = 0; c < table_->columnCount(); ++c)
      if (QTableWidgetItem* item = table_->item(r, c))
        item->setForeground(bad.contains(static_cast<std::size_t>(r - 1)) ? look_.warning : look_.ink);
}

void ImportPage::take() {
  if (!result_ || result_->made + result_->changed == 0) return;
  Imported brought = std::move(*result_);
  open_ = false;
  result_.reset();
  work_.leave();
  const QString words = QString::fromStdString(brought.words());
  const std::size_t touched = brought.touched.size();
  doc_.take(std::move(brought.edited));
  if (touched <= 2000) doc_.select(std::move(brought.touched));
  emit done();
  emit doc_.said(words);
}

void ImportPage::leave() {
  stopSheet();
  work_.leave();
  open_ = false;
  result_.reset();
  emit done();
}

}  // namespace conduit::desktop
