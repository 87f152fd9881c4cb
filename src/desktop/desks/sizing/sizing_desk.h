// The Sizing desk: which size for each line, and why that one. One line, the whole network, balance; and what
// it all costs.
#pragma once

#include <QTimer>

#include "desks/desk.h"
#include "document/background.h"
#include "sizing/balance_flows.h"
#include "sizing/one_line.h"
#include "sizing/words.h"

class QComboBox;
class QLabel;
class QStackedWidget;
class QToolButton;

namespace conduit::desktop {

class Bars;
class CellRows;
class CellTable;
class CostsPage;
class ProposalCard;
class SetupPanel;

class SizingDesk : public Desk {
  Q_OBJECT
 public:
  explicit SizingDesk(Document& document);
  ~SizingDesk() override;

  enum class Way { line, network, balance, costs };

  [[nodiscard]] QString word() const override { return tr("Sizing"); }
  [[nodiscard]] QKeySequence key() const override { return QKeySequence("Alt+3"); }
  void setLook(const Look& look) override;
  void fillMenu(Menu which, QMenu* menu, const Make& make) override;
  void takeKeyboard() override;

  void go(Way way);
  [[nodiscard]] Way way() const { return way_; }
  /// Searches sizes for the whole network; again: further, with the next seed.
  void search();
  [[nodiscard]] bool busy() const { return work_.running() || aside_.running() || duties_.running(); }
  /// What was found last, of the model as it was then.
  struct Found {
    SizingTask task;
    SizingProposal proposal;
    std::uint64_t stamp = 0;
    double seconds = 0.0;
    bool done = false;
  };
  [[nodiscard]] const std::shared_ptr<const Found>& found() const { return found_; }
  [[nodiscard]] const std::optional<OneLine>& line() const { return line_; }
  [[nodiscard]] const std::optional<FlowBalance>& flows() const { return flows_; }
  [[nodiscard]] CellTable& table() { return *table_; }
  [[nodiscard]] CellRows& rows() { return *rows_; }
  [[nodiscard]] ProposalCard& card() { return *card_; }
  [[nodiscard]] Bars& bars() { return *bars_; }
  /// The data sheet of what was found: PDF or HTML by the ending of the name.
  bool writeSheet(const QString& path);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void later();
  void renew();
  void stop();
  void makeTask();
  void keepTicked(int row, bool on);
  void judgeTicked();
  void rowChosen(int row);
  void showAll();
  void showNetwork();
  void showLine();
  void showBalance();
  void showBars(const std::vector<SizingVerdict>& verdicts, std::size_t row);
  void take();
  void act(const QString& link);
  void typedGoal(const QString& words);
  void typedCell(int row, const QString& words);
  void studyLine();
  void studyBalance();
  void judgeKept();
  void readDuties();
  void showDeliveries(const std::vector<DutyMet>& delivered);
  [[nodiscard]] QString leastDelivered() const;
  [[nodiscard]] QString deliveryRow(const QString& who, double now, double then, bool fallsShort) const;
  [[nodiscard]] QString deliveryRows(const QString& rows) const;
  [[nodiscard]] QString deliveriesSaid(const std::vector<DutyMet>& delivered) const;
  void exportTable();
  void exportFigure();
  void exportSheet();
  void offerLines();
  [[nodiscard]] std::vector<Id> linesLooked() const;
  [[nodiscard]] QString sizeShort(const SizingTask& task, const PipeSize& size) const;
  [[nodiscard]] QString money(double v) const;
  /// Under a bar: the limit, and where there is room for it the element.
  [[nodiscard]] static QString brokenShort(const std::string& label, const Element* at);
  [[nodiscard]] QString span(const QColor& ink, const QString& words) const;
  [[nodiscard]] QString linkTo(const QString& to, const QString& words) const;
  [[nodiscard]] QString totals(const SizingVerdict* now, const SizingVerdict* then) const;

  Document& doc_;
  Look look_;
  SetupPanel* setup_;
  ProposalCard* card_;
  CellRows* rows_;
  CellTable* table_;
  Bars* bars_;
  CostsPage* costs_;
  QStackedWidget* pages_;
  QWidget* lower_;
  std::vector<QToolButton*> tabs_;
  QComboBox* which_;
  QLabel *story_, *title_;
  QTimer later_;
  Background work_{tr("The sizing"), this}, aside_{tr("The evaluation of sizes"), this},
      duties_{tr("The solution of present deliveries"), this};
  Way way_ = Way::network;
  bool stale_ = true;
  std::uint64_t seen_ = 0;

  std::shared_ptr<const SizingTask> task_;  // of the model as it is
  std::string noTask_;
  std::shared_ptr<const Found> found_;
  std::vector<char> ticks_;
  std::optional<SizingVerdict> ticked_;    // of what is ticked as a whole
  std::vector<DutyMet> tickedDeliveries_;  // likewise
  bool deliveries_ = false;                // the table shows them in place of the lines
  std::uint64_t dutiesOf_ = 0;             // the state of the model that the set-up panel has them of
  std::vector<std::optional<SizingVerdict>> kept_;
  std::uint64_t furtherBy_ = 0;
  std::vector<Id> lineIds_;  // looked at, in the box
  std::optional<OneLine> line_;
  bool eachCost_ = false;  // of one line, what makes up its costs in place of what flows
  std::uint64_t lineStamp_ = 0;
  QString noLine_, exact_;
  std::optional<FlowBalance> flows_;
  std::uint64_t flowsStamp_ = 0;
  std::vector<Id> valves_;  // rows of the balance
  std::map<Id, QString> refusedFlows_;
};

}  // namespace conduit::desktop
