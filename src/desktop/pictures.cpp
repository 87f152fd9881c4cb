#include "pictures.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QScrollArea>
#include <QScrollBar>
#include <cstdio>

#include "card/card.h"
#include "desks/cases/cases_desk.h"
#include "desks/cases/sweep_pane.h"
#include "desks/network/network_desk.h"
#include "desks/pumps/candidates_view.h"
#include "desks/pumps/places.h"
#include "desks/pumps/pumps_desk.h"
#include "desks/sizing/sizing_desk.h"
#include "drawer/findings_page.h"
#include "drawer/import_page.h"
#include "drawer/ledger.h"
#include "levels/levels_view.h"
#include "look/cell_table.h"
#include "parts/fixed_pressure.h"
#include "parts/pipe/pipe.h"
#include "parts/point.h"
#include "parts/registry.h"
#include "plan/plan_view.h"
#include "window/finder.h"
#include "window/main_window.h"

namespace conduit::desktop {
namespace {

// Whether it is so within ten seconds.
template <class Is>
bool comes(const Is& is) {
  QElapsedTimer clock;
  for (clock.start(); !is() && clock.elapsed() < 10000;)
    QApplication::processEvents(QEventLoop::AllEvents, 20);
  return is();
}

bool wait(Document& doc, bool curve = false) {
  QElapsedTimer clock;
  clock.start();
  while (clock.elapsed() < 20000) {
    QApplication::processEvents(QEventLoop::AllEvents, 20);
    if (doc.current() && (!curve || doc.solved()->curveOf == doc.selected())) {
      QApplication::processEvents();
      return true;
    }
  }
  return false;
}

// Until every case has its answer, and the desk has shown it.
bool waitForAll(Document& doc) {
  QElapsedTimer clock;
  clock.start();
  while (clock.elapsed() < 20000 && !doc.allCurrent()) QApplication::processEvents(QEventLoop::AllEvents, 20);
  for (clock.restart(); clock.elapsed() < 120;) QApplication::processEvents(QEventLoop::AllEvents, 20);
  return doc.allCurrent();
}

// A hand for the pictures: moves, clicks and types as a person would.
struct Hand {
  QWidget& on;
  void send(QEvent::Type type, QPointF at, Qt::MouseButton button) {
    QMouseEvent e(type, at, on.mapToGlobal(at), button,
                  type == QEvent::MouseButtonPress ? button : Qt::NoButton, {});
    QApplication::sendEvent(&on, &e);
  }
  void move(QPointF at) { send(QEvent::MouseMove, at, Qt::NoButton); }
  void click(QPointF at) {
    move(at);
    send(QEvent::MouseButtonPress, at, Qt::LeftButton);
    send(QEvent::MouseButtonRelease, at, Qt::LeftButton);
    QApplication::processEvents();
  }
  void key(int key, const QString& text = {}) {
    QKeyEvent e(QEvent::KeyPress, key, {}, text);
    QApplication::sendEvent(&on, &e);
  }
  void type(const QString& text) {
    for (const QChar c : text) key(c.isLetter() ? c.toUpper().unicode() : c.unicode(), QString(c));
  }
};

// A town of some ten thousand lines, invented: streets in squares, a main in every eighth, draws at the
// corners.
Network town() {
  constexpr int side = 72, mains = 8;
  Draft draft{Network()};
  const Part &pipe = pipe::part, &point = point::part;
  std::vector<Id> corners;
  const auto give = [&](Id id, std::string_view key, double si, const std::string& typed) {
    draft.values(id).set(findField(*draft.network().at(id).part, key)->key, Given{si, Basis::direct, typed});
  };
  for (int i = 0; i < side * side; ++i) {
    const int x = i % side, y = i / side;
    corners.push_back(draft.addNew(point, "C-" + std::to_string(i), {}, {60.0 * x, 50.0 * y}));
    give(corners.back(), "height", 0.05 * y, std::to_string(0.05 * y) + " m");
    if ((x * 7 + y * 3) % 5 == 0) give(corners.back(), "outflow", 0.00025, "0.25 L/s");
  }
  const auto lay = [&](const std::string& name, int from, int to, bool main) {
    const Id id = draft.addNew(
        pipe, name, {corners[static_cast<std::size_t>(from)], corners[static_cast<std::size_t>(to)]}, {});
    give(id, "length", main ? 60 : 55, main ? "60 m" : "55 m");
    give(id, "bore", main ? 0.25 : 0.1, main ? "250 mm" : "100 mm");
    give(id, "roughness", 1e-4, "0.1 mm");
  };
  for (int i = 0; i < side * side; ++i) {
    const int x = i % side, y = i / side;
    if (x + 1 < side) lay("A-" + std::to_string(i), i, i + 1, y % mains == 0);
    if (y + 1 < side) lay("B-" + std::to_string(i), i, i + side, x % mains == 0);
  }
  for (const int i : {0, side * side / 2 + side / 2}) {
    const Id supply = draft.add(fixedpressure::part, "", {corners[static_cast<std::size_t>(i)]});
    give(supply, "pressure", 5e5, "5 bar");
  }
  return std::move(draft).finish();
}

}  // namespace

int drawPictures(const QString& folder, const QString& model) {
  QDir().mkpath(folder);
  MainWindow window;
  auto& net = window.deskOf<NetworkDesk>();
  window.askToDrop = [](const QString&) { return true; };
  window.setLook(false);
  window.resize(1280, 800);
  if (!model.isEmpty() && !window.openFile(model)) {
    std::fprintf(stderr, "%s\n", window.document().lastProblem().what.c_str());
    return 3;
  }
  window.show();
  Document& doc = window.document();
  if (!wait(doc)) return 4;
  int failed = 0;
  auto save = [&](const char* name) {
    QApplication::processEvents();
    const QString file = QString("%1/%2.png").arg(folder, name);
    if (!window.grab().save(file)) ++failed;
    std::printf("%s\n", qPrintable(file));
  };
  auto first = [&](std::string_view kind) {
    Id found = noId;
    doc.network().each([&](Id id, const Element& e) {
      if (found == noId && e.part->key == kind) found = id;
    });
    return found;
  };
  save("network-light");
  if (const Id pump = first("pump"); pump != noId) {
    doc.select({pump});
    wait(doc, true);
    save("pump-selected");
    window.setLook(true);
    save("network-dark");
    window.setLook(false);
    net.card().showWorking("NPSH available");
    save("working");
    net.card().showFace();
  }
  // A found pressure typed over: what could be found instead, each with its value.
  if (const Id junction = doc.network().byName("J-3"); junction != noId) {
    doc.select({junction});
    wait(doc);
    if (auto* number = window.findChild<QWidget*>("found.pressure")) {
      Hand{*number}.type("9");
      if (auto* edit = window.findChild<QLineEdit*>("type.pressure")) {
        Hand{*edit}.type(" bar");
        Hand{*edit}.key(Qt::Key_Return);
        QElapsedTimer clock;
        clock.start();
        for (bool more = true; more && clock.elapsed() < 15000;) {
          QApplication::processEvents(QEventLoop::AllEvents, 20);
          more = !window.findChild<QWidget*>("offer.0");
          for (int i = 0; i < 8 && !more; ++i)
            if (auto* offer = window.findChild<QWidget*>(QString("offer.%1").arg(i)))
              more = offer->accessibleName().endsWith("…");
        }
        save("exchange");
      }
    }
    doc.select({});
    wait(doc);
  }
  if (const Id pipe = first("pipe"); pipe != noId) {
    doc.select({pipe});
    wait(doc);
    net.showDrawer(1);
    save("ledger");
    net.showDrawer(2);
    save("stock");
    net.importTable().openText(
        "Line;From;To;Length (m);Diameter [mm];Roughness "
        "mm;Material\nF-1;J-1;F-A;120,5;150;0,05;steel\nF-2;F-A;F-B;80;125;0,05;steel\nF-3;F-B;F-C;=C4*2;125;"
        "0,05;steel\n"
        "F-4;F-C;F-D;64 bar;100;0,05;steel\nF-5;F-A;F-E;55;100;0,05;PE\nF-6;F-E;F-E;20;80;0,05;PE\n",
        "field lines.csv");
    if (!comes([&] { return net.importTable().ready(); })) return 4;
    save("import");
    net.importTable().leave();
    doc.select({pipe});
    net.card().focusField("take-off");
    save("take-off");
    window.finder().open("velocity > 2 m/s");
    save("finder");
    window.finder().hide();
    Hand{net.plan()}.type("?");
    save("keys");
    if (auto* keys = window.findChild<QWidget*>("keys")) keys->hide();
    for (auto* card : net.card().findChildren<QScrollArea*>()) card->verticalScrollBar()->setValue(0);
    net.showDrawer(0);
    save("findings");
    net.findingsPage().show(FindingsPage::Page::limits);
    if (!comes([&] { return net.findingsPage().limits().rowCount() > 0; })) return 4;
    save("limits");
    net.findingsPage().show(FindingsPage::Page::notJudged);
    save("not-judged");
    net.findingsPage().show(FindingsPage::Page::findings);
    net.showDrawer(-1);
  }
  doc.select({});
  // A pump with its system, its suction and its candidates; a marked one laid over it; by night.
  if (const Id pump = first("pump"); pump != noId) {
    auto& desk = window.deskOf<PumpsDesk>();
    window.showDeskOf<PumpsDesk>();
    desk.places().choose(pump);
    waitForAll(doc);
    const auto settle = [&] {
      QElapsedTimer clock;
      for (clock.start(); !desk.settled() && clock.elapsed() < 20000;)
        QApplication::processEvents(QEventLoop::AllEvents, 20);
      return desk.settled();
    };
    if (!settle()) return 4;
    desk.candidates().selectRow(0);
    save("pumps");
    desk.candidates().clearSelection();
    // One further on, with the curve of another case beside it.
    Id last = pump;
    doc.network().each([&](Id id, const Element& e) {
      if (e.part->lifts && e.value("running") == nullptr) last = id;
    });
    desk.places().choose(last);
    if (doc.model().cases.count() > 1) desk.places().tick(doc.model().cases.others.back().id, true);
    if (!settle()) return 4;
    window.setLook(true);
    save("pumps-dark");
    window.setLook(false);
    desk.candidates().clearSelection();
    doc.select({});
    window.showDeskOf<NetworkDesk>();
  }
  // Sizes of the whole network, found in a few trials; one line; what it costs.
  if (first("pipe") != noId) {
    auto& desk = window.deskOf<SizingDesk>();
    window.showDeskOf<SizingDesk>();
    const auto settle = [&] {
      QElapsedTimer clock;
      clock.start();
      do QApplication::processEvents(QEventLoop::AllEvents, 20);
      while ((desk.busy() || clock.elapsed() < 300) && clock.elapsed() < 60000);
      return !desk.busy();
    };
    settle();
    doc.takeModel(setSizing(doc.model(), sizing::trials, "17", nullptr));
    desk.search();
    if (!settle()) return 4;
    desk.table().selectRow(std::min(20, desk.rows().rowCount() - 1));
    settle();
    save("sizing");
    window.setLook(true);
    settle();
    save("sizing-dark");
    window.setLook(false);
    // By case and user in place of the lines.
    if (auto* said = desk.findChild<QLabel*>("sizing.above")) emit said->linkActivated("deliveries");
    settle();
    save("sizing-deliveries");
    if (auto* said = desk.findChild<QLabel*>("sizing.above")) emit said->linkActivated("lines");
    doc.select({first("pipe")});
    desk.go(SizingDesk::Way::line);
    if (!settle()) return 4;
    save("sizing-line");
    doc.select({});
    if (first("control valve") != noId) {
      desk.go(SizingDesk::Way::balance);
      settle();
      desk.table().selectRow(1);
      save("sizing-balance");
    }
    desk.go(SizingDesk::Way::costs);
    settle();
    save("sizing-costs");
    doc.undo();
    window.showDeskOf<NetworkDesk>();
  }
  // The cases side by side, with one of them current; the Network desk with that case.
  if (doc.model().cases.count() > 1) {
    const CaseId other = doc.model().cases.others.front().id;
    window.showDeskOf<CasesDesk>();
    waitForAll(doc);
    auto& sweep = window.deskOf<CasesDesk>().sweep();
    sweep.run();
    for (QElapsedTimer clock; sweep.running() || !sweep.result();) {
      if (!clock.isValid()) clock.start();
      QApplication::processEvents(QEventLoop::AllEvents, 20);
      if (clock.elapsed() > 20000) return 4;
    }
    waitForAll(doc);
    save("cases");
    doc.setCase(other);
    waitForAll(doc);
    window.showDeskOf<NetworkDesk>();
    for (const Difference& d : doc.caseNow().differs.all())
      if (d.to == Difference::To::found) doc.select({d.element});
    wait(doc, true);
    save("case-card");
    doc.setCase(drawingCase);
    doc.select({});
  }
  doc.startNew();
  wait(doc);
  save("empty");
  // A line being drawn: a tank, a rise, a pump set in, a riser, and the next piece under the hand.
  Hand hand{net.plan()};
  hand.type("t");
  hand.click({110, 300});
  hand.type("20");
  hand.key(Qt::Key_Return);
  hand.type("l");
  hand.click({110, 300});
  hand.click({250, 300});
  hand.move({330, 300});
  hand.type("p");
  hand.click({430, 300});
  for (int i = 0; i < 6; ++i) hand.key(Qt::Key_PageUp);
  hand.click({590, 180});
  hand.type("8 up");
  hand.key(Qt::Key_Return);
  for (int i = 0; i < 3; ++i) hand.key(Qt::Key_PageDown);
  hand.move({770, 180});
  wait(doc);
  save("drawing");
  net.plan().clearFocus();
  doc.startNew();
  doc.take(Edited{"A town of ten thousand lines", town()});
  wait(doc);
  net.plan().fit();
  save("ten-thousand-lines");
  return failed ? 4 : 0;
}

}  // namespace conduit::desktop
