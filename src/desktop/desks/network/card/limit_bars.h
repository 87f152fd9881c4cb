// How close an element is to its limits.
#pragma once

#include <QWidget>
#include <vector>

#include "limits/limits.h"
#include "look/look.h"

namespace conduit::desktop {

/// The bars of an element's checks, each with a mark at its limit.
class LimitBars : public QWidget {
  Q_OBJECT
 public:
  explicit LimitBars(QWidget* parent = nullptr);
  void display(std::vector<Check> checks, const UnitSet& units, const Look& look);
  [[nodiscard]] QSize sizeHint() const override;

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  [[nodiscard]] int saidHeight(const Check& c) const;  // of a check that is a sentence
  std::vector<Check> checks_;
  const UnitSet* units_ = nullptr;
  Look look_;
};

}  // namespace conduit::desktop
