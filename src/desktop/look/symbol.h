// Paints the strokes that a part declares for its symbol.
#pragma once

#include <QPainter>
#include <string_view>

#include "look/look.h"

namespace conduit::desktop {

/// About the origin, flow to the right; `size` is pixels for one unit of the part's box of ±16.
void paintSymbol(QPainter& painter, std::string_view strokes, const Look& look, double size,
                 const QColor& ink);

}  // namespace conduit::desktop
