// A table on its way into the model: how it is read, what each column becomes, which rows are refused and
// why. All of it is worked out beside the drawing; nothing is taken before it is said so.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QProgressBar>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QWidget>
#include <optional>

#include "document/background.h"
#include "document/document.h"
#include "exchange/import_table.h"
#include "look/look.h"

class QProcess;

namespace conduit::desktop {

class ImportPage : public QWidget {
  Q_OBJECT
 public:
  explicit ImportPage(Document& document, QWidget* parent = nullptr);
  ~ImportPage() override;
  void setLook(const Look& look);
  /// Text of a table; its dialect is guessed. `kind` null: guessed from the headings. `columns` given: what
  /// they become when the text has no headings.
  void openText(const QByteArray& bytes, const QString& source, const Part* kind = nullptr,
                std::vector<ColumnUse> columns = {});
  /// CSV and other text, GeoJSON, or a sheet of an XLSX file (through the packaged converter).
  void openFile(const QString& path);
  /// True when the result for what is shown stands.
  [[nodiscard]] bool ready() const { return result_.has_value(); }
  [[nodiscard]] const std::optional<Imported>& result() const { return result_; }
  void take();
  void leave();

 signals:
  void opened();
  void done();

 private:
  void convertSheet();
  void stopSheet();
  void reread();
  void propose();
  void showTable();
  void begin();
  void arrived(Result<Imported> brought);
  void showResult();

  Document& doc_;
  Look look_;
  QByteArray bytes_;
  QString source_, sheetFile_;
  Dialect dialect_;
  std::optional<Grid> fixedGrid_;  // GeoJSON comes with its own
  Grid grid_;
  ImportPlan plan_;
  const Part* wantedKind_ = nullptr;
  std::vector<ColumnUse> wantedColumns_;
  std::vector<ColumnChoice> choices_;
  std::optional<Imported> result_;
  QString problem_;
  bool open_ = false, filling_ = false;
  QProcess* converter_ = nullptr;  // while a sheet is read
  Background work_{tr("The import"), this};

  QLabel *sourceLabel_, *status_;
  QComboBox *kind_, *separator_, *decimal_, *encoding_;
  QCheckBox *headings_, *makePoints_;
  QSpinBox* sheet_;
  QTableWidget* table_;
  QListWidget* refused_;
  QProgressBar* progress_;
  QPushButton *take_, *leave_;
};

}  // namespace conduit::desktop
