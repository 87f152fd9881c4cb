// The card of what is selected: story, figure, givens, founds, limits; the working of a found number on its
// back. With nothing selected it is the job's card.
#pragma once

#include <functional>

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPointer>
#include <QScrollArea>
#include <QScrollBar>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>
#include <map>

#include "card/figure.h"
#include "card/size_hints.h"
#include "document/background.h"
#include "document/document.h"
#include "find/exchange.h"
#include "look/look.h"

namespace conduit::desktop {

class TakeOffEdit;
class PieceStrip;

class Card : public QWidget {
  Q_OBJECT
 public:
  explicit Card(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  /// Puts the keyboard into a field (the first one for an empty key).
  void focusField(const QString& key);
  void showWorking(const QString& outcome);
  void showFace();
  [[nodiscard]] bool workingShown() const { return pages_->currentIndex() == 1; }

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  // A found number that has been typed over, and what could be found in its place.
  struct Exchanging {
    const Outcome* outcome = nullptr;  // null: none
    Id of = noId;
    QString typed;
    bool asked = false;
    std::string why;
    std::vector<std::pair<Exchange, std::optional<ExchangeTried>>> offers;
  };
  // One row, or a few that belong together: what it was made from, so that it stays as long as that stays.
  struct Row {
    std::string what;  // "given bore", with whatever else decides how it is made
    std::function<void()> make;
    QWidget* holder = nullptr;
    std::vector<std::string> editors{}, founds{};  // that it has put into the maps
  };
  [[nodiscard]] std::vector<Row> wantedRows();
  void arrange(std::vector<Row> wanted);
  void makeHead();
  void makeLiquid();
  void makeCaseLine();
  void addDiffers(const Field* field, const Outcome* outcome);
  [[nodiscard]] std::string differsAs(const Element& e, Id id, std::string_view key, bool outcome) const;
  void makeMore(int folded);
  void refresh();
  void typeOver(const Outcome& outcome, QWidget* row, const QString& first);
  void askExchange(const Outcome& outcome, const QString& typed);
  static void showGiven(QLineEdit& edit, const QString& said, const QString& typed);
  void offerTried(std::size_t i, const ExchangeTried& tried);
  void endExchange();
  void makeOffers();
  void showWay(const Outcome& outcome, const Element& e, const std::optional<Shown>& shown);
  void showAssumed(const Field& field, QWidget* editor, const std::string& typed);
  void fillWorking();
  void watchThis(const Outcome& outcome);
  [[nodiscard]] std::vector<Id> shown() const;  // what the card speaks of; the job when nothing is selected
  void addHeading(const QString& text);
  void addGiven(const Part& part, const Field& field);
  [[nodiscard]] int usualWidth(const Field& field) const;
  void addTable(const Field& field);
  void addTakeOff(const Field& field);
  void readTakeOff();
  void addKind(QHBoxLayout* top);
  void addFound(const Outcome& outcome);
  void addGoal(const Outcome& outcome);    // an outcome that is given
  void addFoundField(const Field& field);  // a field that is to be found
  QToolButton* addMarker(QHBoxLayout* line, const QString& glyph, const QString& name, const QString& does,
                         const std::function<void()>& clicked);
  void change(const std::string& words, std::vector<FieldEdit> edits);
  [[nodiscard]] std::optional<double> lastFound(const Outcome& outcome) const;
  void commit(const std::string& key, QLineEdit* edit);
  void swap(const Swap& swap, bool back);

  Document& doc_;
  Look look_;
  QStackedWidget* pages_;
  QScrollArea* face_;
  QWidget* body_ = nullptr;
  QVBoxLayout* rows_ = nullptr;  // of the body; while a row is made, of that row
  std::vector<Row> shownRows_;
  QPointer<QLabel> story_, readBack_;
  QPointer<QLineEdit> nameEdit_;
  QPointer<CardFigure> figure_;
  QPointer<QWidget> limits_;
  QPointer<EconomicWords> economic_;
  QPointer<SizeHints> sizeHints_;
  QPointer<TakeOffEdit> takeOff_;
  QPointer<PieceStrip> pieces_;
  std::map<std::string, QWidget*> editors_;
  std::map<std::string, QLabel*> founds_;
  SolvedPtr lastUsable_;  // so that a field given again begins where it stood
  QScrollArea* back_;
  QLabel* workingText_;
  QToolButton* watch_;
  QString workingOf_;
  bool tableOpen_ = false;
  bool more_ = false;  // also what could be given and is not
  QPointer<QLineEdit> typing_;
  Exchanging exchange_;
  Background exchanging_{tr("The search for what could be found"), this};
};

}  // namespace conduit::desktop
