// The open model: its history, its answer, what is selected, its file. Views show what it holds and tell it
// what is wanted; it decides.
#pragma once

#include <QObject>
#include <QTimer>
#include <functional>
#include <map>
#include <set>

#include "cases/case_edits.h"
#include "document/worker.h"
#include "exchange/stock_files.h"
#include "model/history.h"
#include "network/edits.h"

namespace conduit::desktop {

class Document : public QObject {
  Q_OBJECT
 public:
  explicit Document(QObject* parent = nullptr);
  ~Document() override;

  /// What is looked at and edited: the drawing as the current case has it.
  [[nodiscard]] const Network& network() const { return shown_; }
  [[nodiscard]] const Model& model() const { return history_.now(); }
  [[nodiscard]] CaseId currentCase() const { return case_; }
  [[nodiscard]] const Case& caseNow() const { return *model().cases.find(case_); }
  /// What the current case differs from: its parent; of the drawing, the drawing.
  [[nodiscard]] const Network& parentNetwork() const;
  void setCase(CaseId id);
  /// The newest answer of every case, in their order; null where there is none yet. Some may be older than
  /// the model: see isCurrent.
  [[nodiscard]] std::vector<CaseAnswerPtr> answers() const;
  [[nodiscard]] bool isCurrent(CaseId id) const;
  /// Every case has an answer of this very model.
  [[nodiscard]] bool allCurrent() const;
  [[nodiscard]] const History& history() const { return history_; }
  [[nodiscard]] const SolvedPtr& solved() const { return solved_; }
  /// False while the answer on screen is older than the model.
  [[nodiscard]] bool current() const { return solved_ && solved_->stamp == history_.stamp(); }
  [[nodiscard]] const UnitSet& units() const { return units_; }
  /// The shipped stock, the engineer's own files over it, and what the model encloses over both.
  [[nodiscard]] const Stock* stock() const;
  [[nodiscard]] std::shared_ptr<const Stock> sharedStock() const;
  [[nodiscard]] const Stock& ownStock() const { return own_; }
  /// An entry of the stock becomes (or stays) this model's; one step of undo.
  bool putStock(const std::string& file, const std::vector<std::string>& cells, const std::string& name);
  void editStock(const std::string& name, const std::function<void(Stock&)>& edit);
  /// Entries kept for other models: written to the engineer's own files at once.
  bool keepOwn(Stock own);
  [[nodiscard]] static QString ownStockFolder();
  [[nodiscard]] const std::vector<Id>& selection() const { return selection_; }
  [[nodiscard]] Id selected() const { return selection_.size() == 1 ? selection_.front() : noId; }
  [[nodiscard]] bool isSelected(Id id) const;
  [[nodiscard]] const QString& path() const { return path_; }
  /// Where the model's file stands: pictures are named from there. Empty before it is saved.
  [[nodiscard]] QString folder() const;
  [[nodiscard]] bool dirty() const { return history_.stamp() != savedStamp_; }
  [[nodiscard]] QString title() const;

  /// Takes an edit into the history and balances again; a Problem is shown and nothing changes. True when
  /// taken. Edits of one non-empty `run` become one undo step.
  bool take(Result<Edited> edited, const std::string& run = {});
  bool take(Edited edited, const std::string& run = {});
  /// As take, for what is drawn: what is new gets what it needs, marked as assumed.
  bool draw(Result<Edited> edited, const std::string& run = {});
  /// Takes an edit of the cases; a new case becomes the current one.
  bool takeModel(Result<EditedModel> edited, const std::string& run = {});
  void endRun() { history_.endRun(); }
  bool setField(std::span<const Id> ids, std::string_view key, const QString& text);
  void select(std::vector<Id> ids);
  void undo();
  void redo();
  /// To any step of the history, back or forth.
  void jumpTo(std::size_t step);
  /// A ready set; the job's own units for single quantities go before it.
  void setUnits(const UnitSet& units);
  bool turnInto(const Part& part);
  void apply(const Remedy& remedy);

  void startNew();
  bool open(const QString& path);
  bool save(const QString& path);
  /// The text last refused, for a view that wants to say it beside a field.
  [[nodiscard]] const Problem& lastProblem() const { return lastProblem_; }

  /// A fault in that work is told, and the model kept as by autosave.
  void watch(Background& work);

  /// Autosave: where unsaved work of this run is kept, and what an earlier run left behind.
  void keepRecovery();
  void dropRecovery();
  [[nodiscard]] static QStringList leftBehind();
  bool recover(const QString& file);

 signals:
  void changed();        // the network, or what else the model has
  void caseChanged();    // which case is the current one, or its name
  void casesAnswered();  // a new answer of any case
  void replaced();       // by another model: nothing of the old one is meant any more
  void answered();       // a new answer
  void selectionChanged();
  void unitsChanged();
  void fileChanged();  // path or saved state
  void refused(const QString& why);
  void said(const QString& what);
  // Something leads there: a remedy to a field, the finder to an element or an entry of the stock.
  void wantsField(Id id, const QString& field);
  void wantsShown(Id id);
  void wantsStock(const QString& file, const QString& name);
  void wantsFindings();
  void wantsNotJudged();

 private:
  void balance(bool cold = false);
  void record(std::string name, Model next, const std::string& run);
  void refreshShown();
  void takeKnown();
  void receive(const SolvedPtr& solved);
  void tellFault(const QString& where, const QString& why);
  void refreshUnits();
  void replace(Model model, const QString& path, bool saved);

  History history_{Model()};
  Stock own_;
  std::shared_ptr<const Stock> base_;  // shipped and own
  mutable std::shared_ptr<const Stock> stock_;
  mutable std::shared_ptr<const Enclosed> stockOf_;
  CaseId case_ = drawingCase;
  Network shown_;           // of the current case
  mutable Network parent_;  // of what it differs from
  mutable std::uint64_t parentStamp_ = 0;
  mutable CaseId parentOf_ = noCase;
  SolvedPtr solved_;
  std::map<CaseId, SolvedPtr> answers_;
  const UnitSet* chosenUnits_;
  UnitSet units_ = UnitSet::siWater();
  std::vector<Id> selection_;
  QString path_, recoveryPath_;
  std::uint64_t savedStamp_ = 1;
  Problem lastProblem_;
  QTimer idle_, autosave_;
  std::uint64_t lastOrder_ = 0, shownOrder_ = 0;
  Worker worker_{this};
};

}  // namespace conduit::desktop
