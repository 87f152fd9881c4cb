#include "window/keys_sheet.h"

#include "look/words.h"

#include <QPainter>
#include <map>

#include "parts/registry.h"

namespace conduit::desktop {

KeysSheet::KeysSheet(QWidget* parent) : QWidget(parent), look_(Look::light()) {
  setObjectName("keys");
  setAccessibleName(tr("Keyboard shortcuts"));
  setFocusPolicy(Qt::StrongFocus);
  hide();
}

void KeysSheet::open(const QList<QAction*>& commands, const Look& look) {
  look_ = look;
  columns_.clear();
  Column letters{tr("Letters, also while drawing"), {}};
  for (const Part* part : allParts())
    if (part->letter) letters.rows.emplace_back(QString(QChar(part->letter)), sentence(part->key));
  letters.rows.emplace_back("X", tr("split the pipe"));
  columns_.push_back(letters);
  // Many kinds: two columns of them.
  const std::size_t kinds = (columns_.front().rows.size() + 1) / 2;
  Column rest{
      {}, {columns_.front().rows.begin() + static_cast<std::ptrdiff_t>(kinds), columns_.front().rows.end()}};
  columns_.front().rows.resize(kinds);
  columns_.push_back(rest);
  columns_.push_back({tr("While drawing a line"),
                      {{"12.4", tr("a length; any unit: 40 ft")},
                       {"3.1 up", tr("a rise, 2 down a fall")},
                       {"45°", tr("a direction, from the east")},
                       {"Tab", tr("length, rise, direction")},
                       {tr("Enter"), tr("draws the piece as typed")},
                       {tr("Page Up, Down"), tr("higher, lower by 1")},
                       {tr("Shift, Ctrl with them"), tr("by 10, by 0.1")},
                       {tr("Ctrl"), tr("held: no snapping")},
                       {"Esc", tr("ends")}}});
  columns_.push_back({tr("Mouse in Plan"),
                      {{tr("drag"), tr("moves; from empty space: box select")},
                       {tr("Alt and drag"), tr("lasso select")},
                       {tr("Shift and click"), tr("adds to the selection")},
                       {tr("right drag"), tr("pans")},
                       {tr("wheel"), tr("zooms in, out")},
                       {tr("double click"), tr("fits the view")},
                       {tr("digits"), tr("edit the first given value")},
                       {tr("arrows"), tr("move the cursor; Enter clicks")}}});
  Column more{tr("Commands"), {}};
  for (QAction* a : commands)
    if (!a->shortcut().isEmpty())
      more.rows.emplace_back(a->shortcut().toString(QKeySequence::NativeText), a->text().section(':', 0, 0));
  const std::size_t third = (more.rows.size() + 2) / 3;
  for (std::size_t k = 0; k < 3; ++k) {
    const auto from = static_cast<std::ptrdiff_t>(std::min(k * third, more.rows.size())),
               to = static_cast<std::ptrdiff_t>(std::min((k + 1) * third, more.rows.size()));
    columns_.push_back({k == 0 ? more.title : QString(), {more.rows.begin() + from, more.rows.begin() + to}});
  }
  setGeometry(parentWidget()->rect());
  show();
  raise();
  setFocus();
}

void KeysSheet::shut() {
  hide();
  emit closed();
}

void KeysSheet::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), look_.paper);
  // Two rows of columns: the drawing above, the commands below.
  auto column = [&](const Column& c, double x, double y, double keysWidth, double width) {
    p.setFont(face(13, true));
    p.setPen(look_.ink);
    p.drawText(QRectF(x, y, width, 20), Qt::AlignLeft | Qt::AlignVCenter, c.title);
    y += 24;
    for (const auto& [keys, what] : c.rows) {
      p.setFont(face(12, true));
      p.setPen(look_.ink);
      p.drawText(QRectF(x, y, keysWidth, 18), Qt::AlignLeft | Qt::AlignVCenter, keys);
      p.setFont(face(12));
      p.setPen(look_.ink2);
      p.drawText(QRectF(x + keysWidth, y, width - keysWidth, 18), Qt::AlignLeft | Qt::AlignVCenter,
                 QFontMetricsF(p.font()).elidedText(what, Qt::ElideRight, width - keysWidth));
      y += 18;
    }
    return y;
  };
  const double left = 56, gap = 28, w = (width() - 2 * left - 2 * gap) / 3, letters = (w - gap) / 2;
  double bottom = 0;
  for (std::size_t i = 0; i < 4 && i < columns_.size(); ++i) {
    const double x =
        i < 2 ? static_cast<double>(i) * (letters + gap) : static_cast<double>(i - 1) * (w + gap);
    bottom = std::max(bottom, column(columns_[i], left + x, 40, i < 2 ? 34 : 150, i < 2 ? letters : w));
  }
  for (std::size_t i = 4; i < columns_.size(); ++i)
    column(columns_[i], left + static_cast<double>(i - 4) * (w + gap), bottom + 18, 150, w);
  p.setFont(face(12));
  p.setPen(look_.ink2);
  p.drawText(QRectF(0, height() - 34, width(), 20), Qt::AlignCenter, tr("Press any key to close."));
}

}  // namespace conduit::desktop
