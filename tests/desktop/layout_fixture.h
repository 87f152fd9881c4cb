// The window with a hand that clicks, types, finds and runs commands.
#pragma once

#include <QAction>
#include <QLabel>
#include <QLineEdit>
#include <QTemporaryDir>

#include "drawer/import_page.h"
#include "window/finder.h"
#include "window_fixture.h"

namespace conduit::desktop {

class Layout : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    plan().setFocus();
  }
  Id id(const std::string& name) { return doc().network().byName(name); }
  QPoint at(Id e) { return plan().toScreen(spotOf(doc().network(), e)).toPoint(); }
  void key(Qt::Key k, Qt::KeyboardModifiers with = {}) { QTest::keyClick(&plan(), k, with); }
  void type(const char* text) { QTest::keyClicks(&plan(), text); }
  void click(QPoint where, Qt::KeyboardModifiers with = {}) {
    QTest::mouseMove(&plan(), where);
    QTest::mouseClick(&plan(), Qt::LeftButton, with, where);
  }
  std::string given(const std::string& name, const char* field) {
    const Given* g = doc().network().at(id(name)).values.get<Given>(field);
    return g ? g->typed : std::string();
  }
  void ask(const QString& text) {
    window->finder().open(text);
    QTest::keyClick(window->finder().findChild<QLineEdit*>("finder.text"), Qt::Key_Return);
    settle();
  }
  void run(const char* command) {
    for (QAction* a : window->actions())
      if (a->objectName() == command) return a->trigger();
    ADD_FAILURE() << "no command " << command;
  }
  std::size_t count(std::string_view kind) {
    std::size_t n = 0;
    doc().network().each([&](Id, const Element& e) { n += e.part->key == kind; });
    return n;
  }
  QString said() { return window->findChild<QLabel*>("balance.second")->text(); }
  void waitForTable() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return net().importTable().ready(); }, 60000));
  }
  QTemporaryDir dir;
};

}  // namespace conduit::desktop
