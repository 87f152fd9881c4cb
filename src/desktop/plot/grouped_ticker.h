// Numbers along an axis with their thousands apart, as everywhere else.
#pragma once

#include <qcustomplot.h>

#include "look/round_numbers.h"

namespace conduit::desktop {

class GroupedTicker : public QCPAxisTicker {
 protected:
  QString getTickLabel(double tick, const QLocale& locale, QChar format, int precision) override {
    return withThousands(QCPAxisTicker::getTickLabel(tick, locale, format, precision));
  }
};

}  // namespace conduit::desktop
