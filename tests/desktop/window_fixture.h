// The real window, shown offscreen, with nobody asked about unsaved changes unless a test wants to be.
#pragma once

#include <gtest/gtest.h>

#include <QApplication>
#include <QLineEdit>
#include <QSettings>
#include <QTest>
#include <memory>

#include "desks/network/network_desk.h"
#include "plan/plan_view.h"
#include "window/main_window.h"

namespace conduit::desktop {

class WindowTest : public testing::Test {
 protected:
  void SetUp() override {
    QSettings().setValue("look", "light");  // from the first: another look is another second
    window = std::make_unique<MainWindow>(hangUp);
    window->askToDrop = [this](const QString&) { return ++asked, drop; };
    window->resize(1280, 800);
    window->show();
    settle();
  }
  Document& doc() { return window->document(); }
  NetworkDesk& net() { return window->deskOf<NetworkDesk>(); }
  PlanView& plan() { return net().plan(); }
  void settle() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return doc().current(); }, 10000)) << "the answer did not come";
    QApplication::processEvents();
  }
  void openModel(const QString& path) {
    ASSERT_TRUE(window->openFile(SOURCE_DIR "/" + path));
    settle();
  }
  /// A widget of the window by its name.
  template <class W>
  W* the(const char* name) {
    auto* w = window->findChild<W*>(name);
    EXPECT_NE(w, nullptr) << name;
    return w;
  }
  /// Typed over what a field shows, with Return.
  void type(const char* field, const QString& words) {
    auto* edit = the<QLineEdit>(field);
    ASSERT_NE(edit, nullptr);
    edit->setFocus();
    edit->selectAll();
    QTest::keyClicks(edit, words);
    QTest::keyClick(edit, Qt::Key_Return);
  }
  void openSample(const char* name) { openModel(QString("samples/") + name); }

  std::vector<Desk*> (*hangUp)(Document&) = makeDesks;
  std::unique_ptr<MainWindow> window;
  bool drop = true;
  int asked = 0;
};

}  // namespace conduit::desktop
