// The sentence that always says where things stand; the most prominent text of the window.
#pragma once

#include <QLabel>
#include <functional>

#include "document/document.h"
#include "look/look.h"

namespace conduit::desktop {

class BalanceLine : public QWidget {
  Q_OBJECT
 public:
  explicit BalanceLine(Document& document, QWidget* parent = nullptr);
  void setLook(const Look& look);
  /// A passing word (a hint while drawing, a refusal) in the second line, until the next one.
  void say(const QString& words, bool refused);
  /// A link that stays, beside whatever else is said, until it is clicked or taken back (empty words).
  void offer(const QString& words, std::function<void()> clicked);
  [[nodiscard]] QString text() const { return first_->text() + " " + second_->text(); }

 signals:
  void wantsFindings();

 private:
  void refresh();
  void overAll(QString* first, QString* second, QString* broken) const;
  Document& doc_;
  Look look_;
  QLabel *first_, *second_;
  QString passing_, offered_;
  std::function<void()> clicked_;
  bool refused_ = false;
};

}  // namespace conduit::desktop
