// The rooms of the desktop one by one, and the gestures of Plan.
#include <gtest/gtest.h>

#include <QApplication>
#include <QClipboard>
#include <QLabel>
#include <QLineEdit>
#include <QMimeData>
#include <QPainter>
#include <QPdfDocument>
#include <QPdfWriter>
#include <QTemporaryDir>
#include <QTest>
#include <QToolButton>
#include <QWheelEvent>
#include <condition_variable>
#include <set>

#include "card/card.h"
#include "desks/network/rack.h"
#include "drawer/findings_list.h"
#include "exchange/model_file.h"
#include "levels/levels_view.h"
#include "look/symbol.h"
#include "network/assume.h"
#include "parts/registry.h"
#include "parts/take_off.h"
#include "plan/label_room.h"
#include "solve/random_network.h"
#include "window/balance_line.h"
#include "window_fixture.h"

namespace conduit::desktop {
namespace {

TEST(LabelRoom, whatIsTakenIsNotFree) {
  LabelRoom room({200, 100});
  EXPECT_TRUE(room.free(QRectF(10, 10, 40, 20)));
  room.take(QRectF(30, 15, 10, 10));
  EXPECT_FALSE(room.free(QRectF(10, 10, 40, 20)));
  EXPECT_TRUE(room.free(QRectF(60, 10, 40, 20)));
  room.take(QLineF(0, 90, 199, 50));
  EXPECT_FALSE(room.free(QRectF(90, 55, 30, 20))) << "the line passes there";
  EXPECT_FALSE(room.free(QRectF(-5, 10, 20, 10))) << "off the sheet";
  EXPECT_FALSE(room.free(QRectF(190, 10, 20, 10)));
}

TEST(Symbols, everyKindPaintsOneOfItsOwn) {
  std::set<QByteArray> seen;
  for (const Part* part : allParts()) {
    if (!part->letter) continue;
    QImage image(80, 80, QImage::Format_ARGB32);
    image.fill(Qt::white);
    QPainter p(&image);
    p.translate(40, 40);
    paintSymbol(p, part->symbol, Look::light(), 2.0, Look::light().ink);
    p.end();
    const QByteArray bytes(reinterpret_cast<const char*>(image.constBits()),
                           static_cast<int>(image.sizeInBytes()));
    EXPECT_TRUE(seen.insert(bytes).second) << part->key << " looks like another kind";
    QImage blank(80, 80, QImage::Format_ARGB32);
    blank.fill(Qt::white);
    EXPECT_NE(image, blank) << part->key;
  }
}

TEST(Look, scaleHasFiveStepsAndHoldsItsEnds) {
  const Look look = Look::light();
  EXPECT_EQ(look.onScale(-1), look.flow[0]);
  EXPECT_EQ(look.onScale(0.5), look.flow[2]);
  EXPECT_EQ(look.onScale(2), look.flow[4]);
  for (const Look& l :
       {Look::light(), Look::night()})  // perceptually one after another: lightness runs one way
    for (std::size_t i = 1; i < 5; ++i) EXPECT_EQ(l.flow[i].lightness() < l.flow[i - 1].lightness(), !l.dark);
}

TEST(Figures, areAllOfOneWidth) {
  const QFontMetricsF metrics(face(16));
  const double zero = metrics.horizontalAdvance('0');
  for (const char digit : std::string("123456789"))
    EXPECT_NEAR(metrics.horizontalAdvance(QChar(digit)), zero, 0.01) << digit;
}

class CardRows : public WindowTest {};

// An edit makes again the rows it concerns and no others: what is half typed elsewhere stays, with its
// cursor.
TEST_F(CardRows, stayWhileOthersComeAndGo) {
  openSample("kestrel-fell.lconduit");
  const Id pipe = doc().network().byName("L-39");
  doc().select({pipe});
  settle();
  const auto edit = [&](const char* name) { return QPointer(net().card().findChild<QLineEdit*>(name)); };
  const auto length = edit("given.length"), roughness = edit("given.roughness");
  const QPointer flow = net().card().findChild<QLabel*>("found.flow");
  ASSERT_TRUE(length && roughness && flow);
  length->setFocus();
  length->selectAll();
  QTest::keyClicks(length, "12");
  const Id ids[] = {pipe};
  ASSERT_TRUE(doc().setField(ids, "K", "3"));  // a row that was folded away comes
  settle();
  EXPECT_TRUE(edit("given.K"));
  EXPECT_EQ(edit("given.length").data(), length.data());
  EXPECT_EQ(length->text(), "12") << "half typed";
  EXPECT_EQ(net().card().findChild<QLabel*>("found.flow"), flow.data());
  ASSERT_TRUE(doc().setField(ids, "K", ""));
  settle();
  EXPECT_FALSE(edit("given.K")) << "and goes";
  EXPECT_EQ(edit("given.roughness").data(), roughness.data());
  length->undo();
  doc().select({doc().network().byName("L-1")});
  settle();
  EXPECT_NE(edit("given.length").data(), length.data()) << "another element has rows of its own";
}

TEST(Worker, theNewestSnapshotWins) {
  std::vector<std::uint64_t> orders;
  Worker worker;
  QObject::connect(&worker, &Worker::done, &worker, [&](const SolvedPtr& s) { orders.push_back(s->order); });
  const Network big = test::gridNetwork(4000, 3);
  for (std::uint64_t i = 1; i <= 40; ++i)
    worker.submit({.stamp = i,
                   .order = i,
                   .model = Model{big},
                   .network = big,
                   .stock = {std::shared_ptr<const Stock>(), &shippedStock()},
                   .startFrom = nullptr});
  ASSERT_TRUE(QTest::qWaitFor([&] { return !orders.empty() && orders.back() == 40; }, 20000));
  EXPECT_LT(orders.size(), 40u) << "what was overtaken is dropped";
  EXPECT_TRUE(std::is_sorted(orders.begin(), orders.end()));
}

class Rooms : public WindowTest {
 protected:
  Id id(const char* name) { return doc().network().byName(name); }
  QPoint at(const char* name) { return plan().toScreen(spotOf(doc().network(), id(name))).toPoint(); }
  void key(Qt::Key k, Qt::KeyboardModifiers with = {}) { QTest::keyClick(&plan(), k, with); }
  QString line() { return window->findChild<QLabel*>("balance")->text(); }
};

TEST_F(Rooms, planHitsWhatIsDrawnThere) {
  openSample("millpond.lconduit");
  for (const char* name : {"P-1", "S-1", "Pond", "F-1", "L-2", "Foot valve"})
    EXPECT_EQ(plan().hit(plan().toScreen(spotOf(doc().network(), id(name)))), id(name)) << name;
  EXPECT_EQ(plan().hit({5, 200}), noId);
}

TEST_F(Rooms, wheelZoomsAboutThePointerAndPanMoves) {
  openSample("millpond.lconduit");
  const QPointF hand(300, 200);
  const Spot before = plan().toPlan(hand);
  QWheelEvent wheel(hand, plan().mapToGlobal(hand), {}, {0, 240}, Qt::NoButton, Qt::NoModifier,
                    Qt::NoScrollPhase, false);
  QApplication::sendEvent(&plan(), &wheel);
  const Spot after = plan().toPlan(hand);
  EXPECT_NEAR(before.x, after.x, 1e-9);
  EXPECT_NEAR(before.y, after.y, 1e-9);
  QTest::mousePress(&plan(), Qt::MiddleButton, {}, {300, 200});
  QTest::mouseMove(&plan(), {340, 210});
  QTest::mouseRelease(&plan(), Qt::MiddleButton, {}, {340, 210});
  EXPECT_NEAR(plan().toScreen(before).x(), 340, 1e-6);
  QTest::keyClick(window.get(), Qt::Key_0, Qt::ControlModifier);
  EXPECT_TRUE(plan().rect().contains(at("Pond")));
}

TEST_F(Rooms, aRubberBandSelectsWhatLiesInside) {
  openSample("millpond.lconduit");
  QTest::mousePress(&plan(), Qt::LeftButton, {}, at("N-6") - QPoint(20, 60));
  QTest::mouseMove(&plan(), at("Upper trough") + QPoint(20, -20));
  QTest::mouseMove(&plan(), QPoint(plan().width() - 4, plan().height() - 4));
  QTest::mouseRelease(&plan(), Qt::LeftButton, {}, QPoint(plan().width() - 4, plan().height() - 4));
  EXPECT_TRUE(doc().isSelected(id("Lower trough")));
  EXPECT_TRUE(doc().isSelected(id("L-3")));
  EXPECT_FALSE(doc().isSelected(id("P-1")));
  key(Qt::Key_Escape);
  EXPECT_TRUE(doc().selection().empty());
}

TEST_F(Rooms, aDragMovesAndIsOneStep) {
  openSample("millpond.lconduit");
  const Spot before = doc().network().at(id("Pond")).at;
  const QPoint from = at("Pond");
  QTest::mousePress(&plan(), Qt::LeftButton, {}, from);
  for (int i = 1; i <= 5; ++i) QTest::mouseMove(&plan(), from + QPoint(8 * i, -6 * i));
  QTest::mouseRelease(&plan(), Qt::LeftButton, {}, from + QPoint(40, -30));
  EXPECT_GT(doc().network().at(id("Pond")).at.x, before.x + 1);
  doc().undo();
  EXPECT_EQ(doc().network().at(id("Pond")).at, before);
  EXPECT_FALSE(doc().history().canUndo());
}

TEST_F(Rooms, lettersSetEquipmentIntoTheSelectedPipe) {
  openSample("millpond.lconduit");
  for (const auto& [k, kind] : {std::pair{Qt::Key_V, "isolating valve"}, std::pair{Qt::Key_K, "check valve"},
                                std::pair{Qt::Key_R, "reducing valve"}, std::pair{Qt::Key_C, "control valve"},
                                std::pair{Qt::Key_S, "strainer"}, std::pair{Qt::Key_Z, "nozzle"}}) {
    doc().select({id("L-4")});
    plan().setFocus();
    const auto before = doc().network().count();
    key(k);
    EXPECT_EQ(doc().network().count(), before) << "it hangs at the hand until it is placed";
    key(Qt::Key_Return);
    ASSERT_NE(doc().selected(), noId) << kind;
    EXPECT_EQ(doc().network().at(doc().selected()).part->key, kind);
    doc().undo();
  }
  // X splits it where it is.
  doc().select({id("L-4")});
  key(Qt::Key_X);
  EXPECT_EQ(doc().network().at(doc().selected()).part->key, "point");
  EXPECT_EQ(doc().history().undoName(), "Split L-4");
}

TEST_F(Rooms, lettersTypedInAnEntryBelongToIt) {
  openSample("millpond.lconduit");
  const auto before = doc().network().count();
  doc().select({id("N-6")});
  plan().setFocus();
  QTest::keyClicks(&plan(), "185 ft");
  EXPECT_EQ(doc().network().count(), before) << "no equipment was placed";
  key(Qt::Key_Return);
  EXPECT_EQ(doc().network().at(id("N-6")).given("height")->typed, "185 ft");
}

TEST_F(Rooms, placingByLetterAndClickOnAPipeSetsItThere) {
  openSample("millpond.lconduit");
  doc().select({});
  plan().setFocus();
  key(Qt::Key_V);
  QTest::mouseClick(&plan(), Qt::LeftButton, {}, at("L-4"));
  ASSERT_NE(doc().selected(), noId);
  EXPECT_EQ(doc().network().at(doc().selected()).part->key, "isolating valve");
  // A pipe that is taken off piece by piece is parted there, and its pieces add up as before.
  const auto length = [&](const char* name) {
    const auto* words = doc().network().at(id(name)).text("take-off");
    return words ? parseTakeOff(*words, *doc().stock())->length_m() : 0.0;
  };
  const double whole = length("L-2");
  doc().select({});
  key(Qt::Key_V);
  QTest::mouseClick(&plan(), Qt::LeftButton, {}, at("L-2"));
  double parts = length("L-2");
  const Element& valve = doc().network().at(doc().selected());
  for (const Id joined : doc().network().elementsAt(valve.ends[1]))
    if (joined != doc().selected()) parts += length(doc().network().at(joined).name.c_str());
  EXPECT_GT(whole, length("L-2"));
  EXPECT_NEAR(parts, whole, 1e-6);
}

TEST_F(Rooms, theKeyboardAloneDrawsALine) {
  plan().setFocus();
  key(Qt::Key_L);
  key(Qt::Key_Return);  // begins at the crosshair
  for (int i = 0; i < 6; ++i) key(Qt::Key_Right);
  key(Qt::Key_Return);
  key(Qt::Key_Escape);
  EXPECT_EQ(doc().network().count(), 3u);
}

TEST_F(Rooms, anotherModelEndsWhatWasBeingDrawn) {
  openSample("millpond.lconduit");
  doc().select({id("N-6")});
  plan().setFocus();
  key(Qt::Key_L);
  openSample("kestrel-fell.lconduit");
  QTest::mouseClick(&plan(), Qt::LeftButton, {}, {6, 240});
  EXPECT_FALSE(doc().dirty()) << "a click on the new sheet draws nothing";
}

TEST_F(Rooms, thePageHoldsTitlePlanAndLevels) {
  const QRect sheet(0, 0, 1100, 780);
  const auto printed = [&] {
    QImage page(sheet.size(), QImage::Format_ARGB32);
    page.fill(Qt::white);
    QPainter p(&page);
    net().paintPage(p, page.rect());
    return page;
  };
  // Dark marks in a strip of the page that stand on one page and not on another.
  const auto apart = [&](const QImage& a, const QImage& b, int from, int to) {
    int n = 0;
    for (int y = from; y < to; ++y)
      for (int x = 0; x < a.width(); ++x)
        n += (a.pixelColor(x, y).lightness() < 90) != (b.pixelColor(x, y).lightness() < 90);
    return n;
  };
  doc().startNew();
  settle();
  const QImage blank = printed();
  openSample("kestrel-fell.lconduit");
  const QImage whole = printed();
  EXPECT_GT(apart(whole, blank, 30, 420), 2000) << "Plan in the upper half";
  EXPECT_GT(apart(whole, blank, 520, 760), 1000) << "Levels in the lower";
  // Another title changes the head of the page and nothing else; a point moved changes Plan and not the head.
  const Id job[] = {jobId};
  ASSERT_TRUE(doc().setField(job, "title", "Another name for the same works"));
  settle();
  const QImage renamed = printed();
  EXPECT_GT(apart(whole, renamed, 0, 30), 50);
  EXPECT_EQ(apart(whole, renamed, 60, 780), 0);
}

TEST_F(Rooms, workLeftBehindByACrashComesBackUnsaved) {
  openSample("millpond.lconduit");
  const Id ids[] = {id("Pond")};
  ASSERT_TRUE(doc().setField(ids, "level", "42.7 m"));
  const std::string lost = writeModel(doc().network());
  QTemporaryDir dir;
  const QString file = dir.filePath("millpond-999999999.lconduit");  // a number no program has
  ASSERT_TRUE(saveModel(doc().model(), file.toStdString()));
  doc().startNew();
  ASSERT_TRUE(doc().recover(file));
  settle();
  EXPECT_EQ(writeModel(doc().network()), lost);
  EXPECT_TRUE(doc().dirty());
  EXPECT_FALSE(QFile::exists(file)) << "kept under this program's own name from now on";
  doc().dropRecovery();
}

TEST_F(Rooms, copyPasteAndDuplicateBringNewNames) {
  openSample("millpond.lconduit");
  doc().select({id("L-3")});
  QTest::keyClick(window.get(), Qt::Key_C, Qt::ControlModifier);
  QTest::keyClick(window.get(), Qt::Key_V, Qt::ControlModifier);
  EXPECT_NE(id("L-5"), noId);
  EXPECT_EQ(doc().selection().size(), 3u);
  QTest::keyClick(window.get(), Qt::Key_D, Qt::ControlModifier);
  EXPECT_NE(id("L-6"), noId);
}

// The printed page says what nobody has given, and in which case the network stands.
TEST_F(Rooms, thePageListsWhatIsAssumedAndNamesTheCase) {
  plan().setFocus();
  QTest::keyClicks(&plan(), "t");
  QTest::mouseMove(&plan(), {200, 120});
  QTest::mouseClick(&plan(), Qt::LeftButton, {}, {200, 120});
  key(Qt::Key_Escape);
  settle();
  ASSERT_FALSE(assumedIn(doc().network()).empty());
  ASSERT_TRUE(doc().takeModel(addCase(doc().model(), "Dry summer", drawingCase)));
  settle();
  QTemporaryDir dir;
  const QString file = dir.filePath("page.pdf");
  {
    QPdfWriter writer(file);
    writer.setPageOrientation(QPageLayout::Landscape);
    QPainter p(&writer);
    net().paintPage(p, p.viewport());
  }
  QPdfDocument page;
  page.load(file);
  const QString words = page.getAllText(0).text();
  EXPECT_TRUE(words.contains("Assumed values")) << words.toStdString();
  EXPECT_TRUE(words.contains("level 0 m")) << words.toStdString();
  EXPECT_TRUE(words.contains("case: Dry summer")) << words.toStdString();
}

TEST_F(Rooms, theRemedyInTheBalanceLineIsOneClick) {
  openModel("tests/limits/pond.lconduit");
  const Id ids[] = {id("P-1")};
  ASSERT_TRUE(doc().setField(ids, "running", "no"));
  settle();
  EXPECT_TRUE(line().contains("Cannot be solved yet")) << line().toStdString();
  auto* second = window->findChild<QLabel*>("balance.second");
  EXPECT_TRUE(second->text().contains("Start P-1")) << second->text().toStdString();
  emit second->linkActivated("remedy0");
  QApplication::processEvents();
  settle();
  EXPECT_TRUE(line().contains("Solved."));
  EXPECT_EQ(doc().history().undoName(), "Start P-1");
}

TEST_F(Rooms, aFindingsLinkGoesThereAndItsRemedyMends) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(0);
  QApplication::processEvents();
  auto* first = window->findChild<QLabel*>("finding.0");
  ASSERT_NE(first, nullptr);
  emit first->linkActivated("place");
  QApplication::processEvents();
  EXPECT_EQ(doc().network().at(doc().selected()).part->key, "pump");
  const std::size_t before = doc().solved()->findings.size();
  first = window->findChild<QLabel*>("finding.0");
  emit first->linkActivated("0");
  QApplication::processEvents();
  settle();
  EXPECT_EQ(doc().solved()->findings.size(), before - 1);
}

TEST_F(Rooms, whatIsOnPaperOnlyOutranksEveryOtherWord) {
  openSample("millpond.lconduit");
  const Id ids[] = {id("Upper trough")};
  ASSERT_TRUE(doc().setField(ids, "height", "140 m"));
  settle();
  EXPECT_TRUE(line().contains("Solved, but physically impossible"));
  EXPECT_TRUE(line().contains("below full vacuum"));
}

TEST_F(Rooms, levelsWalksAndNudgesByKeys) {
  openSample("kestrel-fell.lconduit");
  auto& levels = net().levels();
  levels.setFocus();
  doc().select({id("B-1")});
  settle();
  QTest::keyClick(&levels, Qt::Key_Right);
  EXPECT_EQ(doc().selected(), id("C-13"));
  doc().select({id("Tarn")});
  settle();
  const double before = doc().network().at(id("Tarn")).given("level")->value;
  QTest::keyClick(&levels, Qt::Key_Up);
  EXPECT_GT(doc().network().at(id("Tarn")).given("level")->value, before);
}

TEST_F(Rooms, aRouteOfOnesOwnStaysUntilItIsLetGo) {
  openSample("kestrel-fell.lconduit");
  doc().select({id("J-1"), id("J-3")});
  QTest::keyClick(window.get(), Qt::Key_T, Qt::ControlModifier);
  EXPECT_TRUE(net().levels().chosen());
  const double length = net().levels().profile().length_m;
  doc().select({id("Gun 4")});
  settle();
  EXPECT_DOUBLE_EQ(net().levels().profile().length_m, length);
  QTest::mouseClick(window->findChild<QToolButton*>("route.free"), Qt::LeftButton);
  settle();
  EXPECT_FALSE(net().levels().chosen());
}

TEST_F(Rooms, theRackHasAButtonForEveryLetter) {
  int letters = 0;
  for (const Part* part : allParts()) letters += part->letter != 0;
  EXPECT_EQ(window->findChildren<RackButton*>().size(), letters);
  QTest::mouseClick(window->findChild<QAbstractButton*>("rack.tank"), Qt::LeftButton);
  QTest::mouseClick(&plan(), Qt::LeftButton, {}, {300, 200});
  EXPECT_EQ(doc().network().at(doc().selected()).part->key, "tank");
}

TEST_F(Rooms, severalSelectedShowWhatTheyShareAndWhereTheyDiffer) {
  openSample("kestrel-fell.lconduit");
  doc().select({id("L-5"), id("L-6"), id("L-13")});
  EXPECT_TRUE(window->findChild<QLabel*>("story")->text().contains("3 × pipe"));
  EXPECT_EQ(window->findChild<QLineEdit*>("given.roughness")->text(), "0.1 mm");
  EXPECT_EQ(window->findChild<QLineEdit*>("given.length")->placeholderText(), "various");
}

TEST_F(Rooms, theJobsCardHoldsTheLiquid) {
  openSample("kestrel-fell.lconduit");
  doc().select({});
  EXPECT_EQ(window->findChild<QLineEdit*>("given.temperature")->text(), "1.5 °C");
  EXPECT_TRUE(window->findChild<QLabel*>("found.density")->text().contains("999.9"));
}

TEST_F(Rooms, aFileIsTakenByDropAndRemembered) {
  QMimeData mime;
  mime.setUrls({QUrl::fromLocalFile(SOURCE_DIR "/samples/millpond.lconduit")});
  QDragEnterEvent enter({100, 100}, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(window.get(), &enter);
  EXPECT_TRUE(enter.isAccepted());
  QDropEvent drop({100, 100}, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(window.get(), &drop);
  settle();
  EXPECT_NE(id("Pond"), noId);
  EXPECT_TRUE(window->windowTitle().contains("Millpond"));
}

}  // namespace
}  // namespace conduit::desktop
