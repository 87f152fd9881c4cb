#include "look/look.h"

#include <QApplication>
#include <QFontDatabase>
#include <algorithm>

namespace conduit::desktop {

Look Look::light() {
  return {
      .paper = "#F6F3EA",
      .sheet = "#FCFAF4",
      .grid = "#EAE5D8",
      .hair = "#D8D2C3",
      .field = "#FFFFFF",
      .ink = "#20262C",
      .ink2 = "#59626B",
      .water = "#1B6E8C",
      .warning = "#B3401F",
      .ceiling = "#8C6A46",
      .flow = {QColor("#CFE3E6"), QColor("#8FBFCB"), QColor("#4D95AB"), QColor("#1B6E8C"), QColor("#0F4258")},
      .dark = false};
}

Look Look::night() {
  return {
      .paper = "#171B1F",
      .sheet = "#1D2226",
      .grid = "#23292E",
      .hair = "#343B41",
      .field = "#252B30",
      .ink = "#E9E5DA",
      .ink2 = "#9AA3AA",
      .water = "#5FB3CE",
      .warning = "#F08A5D",
      .ceiling = "#C9A27A",
      .flow = {QColor("#24414B"), QColor("#2F6475"), QColor("#4392AB"), QColor("#77BFD5"), QColor("#C4E9F2")},
      .dark = true};
}

QColor Look::onScale(double share) const {
  return flow[static_cast<std::size_t>(std::clamp(static_cast<int>(share * 5), 0, 4))];
}

QPalette Look::palette() const {
  QPalette p;
  p.setColor(QPalette::Window, paper);
  p.setColor(QPalette::WindowText, ink);
  p.setColor(QPalette::Base, field);
  p.setColor(QPalette::AlternateBase, sheet);
  p.setColor(QPalette::Text, ink);
  p.setColor(QPalette::PlaceholderText, ink2);
  p.setColor(QPalette::Button, paper);
  p.setColor(QPalette::ButtonText, ink);
  p.setColor(QPalette::ToolTipBase, field);
  p.setColor(QPalette::ToolTipText, ink);
  p.setColor(QPalette::Highlight, water);
  p.setColor(QPalette::HighlightedText, dark ? paper : field);
  p.setColor(QPalette::Link, water);
  p.setColor(QPalette::Light, field);
  p.setColor(QPalette::Mid, hair);
  p.setColor(QPalette::Dark, hair);
  for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
    p.setColor(QPalette::Disabled, role, ink2);
  return p;
}

QString Look::styleSheet() const {
  return QString(R"(
    QLineEdit, QPlainTextEdit { background: %1; border: 1px solid %2; border-radius: 3px; padding: 1px 5px; color: %3; selection-background-color: %4; }
    QLineEdit:focus { border: 2px solid %3; padding: 0px 4px; }
    QLineEdit[refused="true"] { border: 2px solid %5; }
    QPushButton, QToolButton { background: transparent; border: 1px solid transparent; border-radius: 3px; padding: 2px 6px; color: %3; }
    QPushButton:hover, QToolButton:hover { border-color: %2; background: %1; }
    QPushButton:focus, QToolButton:focus { border: 2px solid %3; padding: 1px 5px; }
    QToolButton[marker="true"] { padding: 0; font-size: 12px; }
    QToolButton[marker="true"]:focus { padding: 0; }
    QToolButton::menu-indicator { image: none; width: 0; }
    QMenu { background: %1; color: %3; border: 1px solid %2; padding: 4px; }
    QMenu::item { padding: 4px 22px 4px 12px; }
    QMenu::item:selected { background: %4; color: %6; }
    QMenu::item:disabled { color: %7; }
    QMenu::separator { height: 1px; background: %2; margin: 4px 6px; }
    QHeaderView::section { background: %6; color: %7; border: none; border-bottom: 1px solid %2; padding: 3px 6px; }
    QTableView { background: %8; gridline-color: %9; border: none; color: %3; selection-background-color: %4; selection-color: %6; }
    QTableCornerButton::section { background: %6; border: none; }
    QScrollArea { border: none; background: transparent; }
    QScrollBar:vertical { width: 9px; background: transparent; } QScrollBar:horizontal { height: 9px; background: transparent; }
    QScrollBar::handle { background: %2; border-radius: 4px; min-height: 24px; min-width: 24px; }
    QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
    QCheckBox { color: %3; spacing: 6px; }
    QCheckBox:focus { border: 1px solid %3; border-radius: 3px; }
    QToolTip { background: %1; color: %3; border: 1px solid %2; }
    QSplitter::handle { background: %2; }
  )")
      .arg(field.name(), hair.name(), ink.name(), water.name(), warning.name(), paper.name(), ink2.name(),
           sheet.name(), grid.name());
}

namespace {
QString family = QStringLiteral("Inter");
}

QString loadFonts() {
  for (const char* file : {":/fonts/regular.otf", ":/fonts/semibold.otf", ":/fonts/bold.otf"}) {
    const int id = QFontDatabase::addApplicationFont(file);
    if (const QStringList names = QFontDatabase::applicationFontFamilies(id); !names.isEmpty())
      family = names.first();
  }
  return family;
}

QFont face(double pixels, bool bold) {
  QFont f(family);
  f.setPixelSize(std::max(10, static_cast<int>(pixels + 0.5)));
  f.setWeight(bold ? QFont::DemiBold : QFont::Normal);
  return f;
}

}  // namespace conduit::desktop
