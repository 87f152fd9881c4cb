#include "window/keys_sheet.h"

#include "look/words.h"

#include <QPainter>
#include <algorithm>

#include "parts/registry.h"

namespace conduit::desktop {
namespace {

constexpr double wideKeys = 140;
constexpr int columns = 3;

}  // namespace

KeysSheet::KeysSheet(QWidget* parent) : QWidget(parent), look_(Look::light()) {
  setObjectName("keys");
  setAccessibleName(tr("Keyboard shortcuts"));
  setFocusPolicy(Qt::StrongFocus);
  hide();
}

void KeysSheet::open(const std::vector<Group>& groups, const Look& look) {
  look_ = look;
  sections_.clear();
  Section letters{tr("Letters, also while drawing"), 34, {}};
  for (const Part* part : allParts())
    if (part->letter) letters.rows.emplace_back(QString(QChar(part->letter)), sentence(part->key));
  letters.rows.emplace_back("X", tr("split the pipe"));
  sections_.push_back(letters);
  sections_.push_back({tr("While drawing a line"),
                       wideKeys,
                       {{"12.4", tr("a length; any unit: 40 ft")},
                        {"3.1 up", tr("a rise, 2 down a fall")},
                        {"45°", tr("a direction, from the east")},
                        {"Tab", tr("length, rise, direction")},
                        {tr("Enter"), tr("draws the piece as typed")},
                        {tr("Page Up, Down"), tr("higher, lower by 1")},
                        {tr("Shift, Ctrl with them"), tr("by 10, by 0.1")},
                        {tr("Ctrl"), tr("held: no snapping")},
                        {"Esc", tr("ends")}}});
  sections_.push_back({tr("Mouse in Plan"),
                       wideKeys,
                       {{tr("drag"), tr("moves; from empty space: box select")},
                        {tr("Alt and drag"), tr("lasso select")},
                        {tr("Shift and click"), tr("adds to the selection")},
                        {tr("right drag"), tr("pans")},
                        {tr("wheel"), tr("zooms in, out")},
                        {tr("double click"), tr("fits the view")},
                        {tr("digits"), tr("edit the first given value")},
                        {tr("arrows"), tr("move the cursor; Enter clicks")}}});
  for (const Group& group : groups) {
    Section section{group.title, wideKeys, {}};
    for (QAction* a : group.commands)
      if (!a->shortcut().isEmpty()) {
        QStringList keys;
        for (const QKeySequence& k : a->shortcuts().mid(0, 2)) keys << k.toString(QKeySequence::NativeText);
        section.rows.emplace_back(keys.join(", "), a->text().section(':', 0, 0));
      }
    if (!section.rows.empty()) sections_.push_back(section);
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
  // Sections flow down three columns of like height; a heading and the gap above it take two rows.
  std::size_t lines = 0;
  for (const Section& s : sections_) lines += s.rows.size() + 2;
  const auto each = static_cast<double>((lines + columns - 1) / columns);
  const double left = width() < 1200 ? 24 : 56, gap = 28, top = 24, foot = 44,
               w = (width() - 2 * left - (columns - 1) * gap) / columns,
               row = std::clamp((height() - top - foot) / (each + 2), 13.0, 18.0);
  double x = left, y = top;
  const double end = top + row * (each + 2);
  const auto next = [&](double rows) {  // the place for so many rows together; true: in a new column
    if (y + rows * row <= end + 0.5 || x + w + gap >= width()) return false;
    x += w + gap, y = top;
    return true;
  };
  const auto heading = [&](const QString& title) {
    p.setFont(face(13, true));
    p.setPen(look_.ink);
    p.drawText(QRectF(x, y, w, row + 4), Qt::AlignLeft | Qt::AlignVCenter, title);
    y += row + 4;
  };
  for (const Section& s : sections_) {
    next(4);
    heading(s.title);
    for (const auto& [keys, what] : s.rows) {
      if (next(1)) heading(s.title);
      const QFont bold = face(12, true);
      p.setFont(bold);
      p.setPen(look_.ink);
      p.drawText(QRectF(x, y, s.keysWidth, row), Qt::AlignLeft | Qt::AlignVCenter, keys);
      p.setFont(face(12));
      p.setPen(look_.ink2);
      p.drawText(QRectF(x + s.keysWidth, y, w - s.keysWidth, row), Qt::AlignLeft | Qt::AlignVCenter,
                 QFontMetricsF(p.font()).elidedText(what, Qt::ElideRight, w - s.keysWidth));
      y += row;
    }
    y += row - 4;
  }
  p.setFont(face(12));
  p.setPen(look_.ink2);
  p.drawText(QRectF(0, height() - 30, width(), 20), Qt::AlignCenter, tr("Press any key to close."));
}

}  // namespace conduit::desktop
