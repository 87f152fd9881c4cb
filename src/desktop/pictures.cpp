#include "pictures.h"

#include <QApplication>
#include <QDir>
#include <QElapsedTimer>
#include <cstdio>

#include "card/card.h"
#include "drawer/ledger.h"
#include "levels/levels_view.h"
#include "parts/registry.h"
#include "plan/plan_view.h"
#include "window/main_window.h"

namespace conduit::desktop {
namespace {

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

}  // namespace

int drawPictures(const QString& folder, const QString& model) {
  QDir().mkpath(folder);
  MainWindow window;
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
    window.card().showWorking("NPSH available");
    save("working");
    window.card().showFace();
  }
  if (const Id pipe = first("pipe"); pipe != noId) {
    doc.select({pipe});
    wait(doc);
    save("pipe-selected");
    window.showDrawer(1);
    save("ledger");
    window.showDrawer(0);
    save("findings");
    window.showDrawer(-1);
    const Id ids[] = {pipe};
    doc.setField(ids, "bore", "");
    doc.setField(ids, "size", "");
    wait(doc);
    save("incomplete");
    doc.undo();
    doc.undo();
    wait(doc);
  }
  doc.select({});
  doc.startNew();
  wait(doc);
  save("empty");
  return failed ? 4 : 0;
}

}  // namespace conduit::desktop
