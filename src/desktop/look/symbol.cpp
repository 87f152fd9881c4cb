#include "look/symbol.h"

#include <QPainterPath>
#include <charconv>
#include <vector>

namespace conduit::desktop {
namespace {

std::vector<std::string_view> words(std::string_view text) {
  std::vector<std::string_view> out;
  for (std::size_t at = 0; at < text.size();) {
    const auto end = std::min(text.find(' ', at), text.size());
    if (end > at) out.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  return out;
}

}  // namespace

void paintSymbol(QPainter& painter, std::string_view strokes, const Look& look, double size,
                 const QColor& ink) {
  const auto tokens = words(strokes);
  std::size_t i = 0;
  auto number = [&] {
    double v = 0;
    if (i < tokens.size()) std::from_chars(tokens[i].data(), tokens[i].data() + tokens[i].size(), v), ++i;
    return v * size;
  };
  auto isNumber = [&] {
    return i < tokens.size() && (tokens[i][0] == '-' || (tokens[i][0] >= '0' && tokens[i][0] <= '9'));
  };
  const QPen pen(ink, 1.5, Qt::SolidLine, Qt::FlatCap, Qt::MiterJoin);
  QPainterPath path;
  char fill = 0;
  bool closed = false;
  auto flush = [&] {
    if (path.isEmpty()) return;
    painter.setPen(fill == 'W' ? Qt::NoPen : pen);
    painter.setBrush(fill == 'F'   ? QBrush(ink)
                     : fill == 'W' ? QBrush(look.flow[1])
                     : closed      ? QBrush(look.sheet)
                                   : QBrush(Qt::NoBrush));
    painter.drawPath(path);
    path = QPainterPath();
    closed = false;
  };
  bool open = false;
  while (i < tokens.size()) {
    const char command = tokens[i][0];
    ++i;
    switch (command) {
      case 'F':
      case 'W':
        flush();
        fill = command;
        open = true;
        break;
      case 'M': {
        // Each figure is painted by itself, so that later ones lie on top; open ones are not filled.
        if (!open) flush(), fill = 0;
        open = false;
        const double x = number(), y = number();
        path.moveTo(x, y);
        break;
      }
      case 'L':
        while (isNumber()) {
          const double x = number(), y = number();
          path.lineTo(x, y);
        }
        break;
      case 'Z':
        path.closeSubpath();
        closed = true;
        break;
      case 'O': {
        if (!open) flush(), fill = 0;
        open = false;
        const double x = number(), y = number(), r = number();
        path.addEllipse(QPointF(x, y), r, r);
        closed = true;
        break;
      }
      case 'A': {
        const double x = number(), y = number(), w = number(), h = number(), start = number() / size,
                     span = number() / size;
        path.moveTo(x + w, y + h / 2);
        path.arcTo(QRectF(x, y, w, h), start, span);
        break;
      }
      default: break;
    }
  }
  flush();
}

}  // namespace conduit::desktop
