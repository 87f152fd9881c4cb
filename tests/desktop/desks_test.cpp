// The window and its desks: a second one, which the program does not have, is hung up beside the first.
#include <QAction>
#include <QRegularExpression>
#include <QToolButton>

#include "window_fixture.h"

namespace conduit::desktop {
namespace {

// All that a desk need have: a folder and its line. It shows how many elements there are.
class CountDesk : public Desk {
 public:
  explicit CountDesk(Document& doc) : doc_(doc) {
    connect(&doc_, &Document::changed, this, [this] { count = doc_.network().count(); });
  }
  [[nodiscard]] QString word() const override { return "Count"; }
  void setLook(const Look& look) override { dark = look.dark; }
  void fillMenu(Menu which, QMenu*, const Make& make) override {
    if (which == Menu::view) make("count.go", "Count anew", QKeySequence("F12"), [this] { ++counted; });
  }
  std::size_t count = 0;
  int counted = 0;
  bool dark = false;

 private:
  Document& doc_;
};
CountDesk* second = nullptr;
std::vector<Desk*> withSecond(Document& doc) {
  std::vector<Desk*> desks = makeDesks(doc);
  desks.push_back(second = new CountDesk(doc));
  return desks;
}

class Desks : public WindowTest {
 protected:
  Desks() { hangUp = withSecond; }
  [[nodiscard]] QAction* action(const char* name) const { return window->findChild<QAction*>(name); }
};

TEST_F(Desks, standInTheTopStripAndTheOneInFrontAnswers) {
  openSample("millpond.lconduit");
  EXPECT_EQ(second->count, doc().network().count()) << "a desk behind follows the model";
  auto* button = window->findChild<QToolButton*>(QString("desk.%1").arg(
      window->findChildren<QToolButton*>(QRegularExpression("^desk\\.[0-9]$")).size()));
  ASSERT_TRUE(button);
  EXPECT_EQ(button->text(), "Count");
  EXPECT_TRUE(net().isVisible());
  EXPECT_FALSE(action("count.go")->isEnabled()) << "its commands wait until it is in front";
  QTest::mouseClick(button, Qt::LeftButton);
  EXPECT_EQ(&window->desk(), second);
  EXPECT_FALSE(net().isVisible());
  EXPECT_FALSE(window->findChild<QToolButton*>("colours")->isVisible()) << "a tool of the other desk";
  EXPECT_FALSE(action("view.ledger")->isEnabled());
  EXPECT_TRUE(action("edit.undo")) << "the window's own commands stay";
  QTest::keyClick(window.get(), Qt::Key_F12);
  EXPECT_EQ(second->counted, 1);
  window->setLook(true);
  EXPECT_TRUE(second->dark);
  window->setLook(false);
}

// What is named on any desk can be gone to: the element's desk comes to the front and shows it.
TEST_F(Desks, whatLeadsToAnElementLeadsToTheFirst) {
  openSample("millpond.lconduit");
  window->showDesk(1);
  const Id pond = doc().network().byName("Pond");
  doc().apply(Remedy{"", {}, {"Pond", "level"}});
  EXPECT_EQ(&window->desk(), &net());
  EXPECT_EQ(doc().selected(), pond);
  const auto keyboardAt = [] {
    return QApplication::focusWidget() ? QApplication::focusWidget()->objectName() : QString();
  };
  EXPECT_EQ(keyboardAt(), "given.level") << "from another desk";
  net().plan().setFocus();
  doc().apply(Remedy{"", {}, {"Pond", "level"}});
  EXPECT_EQ(keyboardAt(), "given.level") << "from its own";
  window->showDesk(1);
  emit doc().wantsFindings();
  EXPECT_EQ(&window->desk(), &net());
}

}  // namespace
}  // namespace conduit::desktop
