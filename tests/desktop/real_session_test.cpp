// What pictures drawn without a monitor hide: run under Xvfb alone (the test named RealSession).
#include <QAbstractButton>
#include <QFontInfo>
#include <QLabel>
#include <QSettings>

#include "table_cells.h"
#include "window_fixture.h"

namespace conduit::desktop {
namespace {

// Family and size of every label, button and field that is in sight.
std::map<QString, QString> faces(const QWidget& window) {
  std::map<QString, QString> all;
  int n = 0;
  for (const QWidget* w : window.findChildren<QWidget*>()) {
    ++n;
    if (!w->isVisible() || !(qobject_cast<const QLabel*>(w) || qobject_cast<const QAbstractButton*>(w) ||
                             qobject_cast<const QLineEdit*>(w)))
      continue;
    const QFontInfo font(w->font());
    all[QString("%1 %2 %3").arg(n).arg(w->metaObject()->className(), w->objectName())] =
        QString("%1 %2 px, %3").arg(font.family()).arg(font.pixelSize()).arg(font.weight());
  }
  return all;
}

TEST(RealSession, everyFaceIsOursFromTheFirstFrame) {
  ASSERT_EQ(QApplication::platformName(), "xcb") << "run by the test RealSession, under Xvfb";
  QSettings().remove("look");
  MainWindow window(makeDesks);
  window.askToDrop = [](const QString&) { return true; };
  window.resize(1280, 800);
  window.show();
  ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
  QTest::qWait(300);
  const auto first = faces(window);
  EXPECT_GT(first.size(), 60u);
  for (const auto& [widget, font] : first)
    EXPECT_TRUE(font.startsWith(face(12).family())) << widget.toStdString() << ": " << font.toStdString();
  window.setLook(false);
  QTest::qWait(100);
  const auto again = faces(window);
  for (const auto& [widget, font] : first)
    if (const auto it = again.find(widget); it != again.end())
      EXPECT_EQ(font, it->second) << widget.toStdString() << ": another face once the look is set";
  for (const auto* heading : window.findChildren<QLabel*>("rack.heading")) {
    EXPECT_GE(heading->width(), heading->fontMetrics().horizontalAdvance(heading->text()))
        << heading->text().toStdString() << " is cut";
    EXPECT_EQ(QFontInfo(heading->font()).pixelSize(), 10);
  }
  EXPECT_FALSE(window.findChildren<QLabel*>("rack.heading").isEmpty());
}

// The costs of one line and the heads of figures, whole in a real session too.
TEST(RealSession, theTableOfOneLineIsWhole) {
  MainWindow window(makeDesks);
  window.askToDrop = [](const QString&) { return true; };
  window.resize(1280, 800);
  window.show();
  ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
  ASSERT_TRUE(window.openFile(SOURCE_DIR "/samples/kestrel-fell.lconduit"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return window.document().current(); }, 10000));
  window.document().select({window.document().network().byName("L-5")});
  window.showDesk(2);
  auto* table = window.findChild<CellTable*>("sizing.table");
  ASSERT_NE(table, nullptr);
  ASSERT_TRUE(QTest::qWaitFor([&] { return table->model()->rowCount() > 5; }, 20000));
  QTest::qWait(300);
  EXPECT_EQ(cutCells(*table), QStringList());
}

}  // namespace
}  // namespace conduit::desktop
