// A newcomer's first minutes: whole networks from an empty sheet, each click and each entry counted, nothing
// incomplete on the way, and the answer known by hand.
#include <gtest/gtest.h>

#include <QComboBox>
#include <QLabel>
#include <QToolButton>
#include <array>
#include <cmath>

#include "card/card.h"
#include "drawer/findings_page.h"
#include "drawer/ledger.h"
#include "exchange/model_file.h"
#include "layout_fixture.h"
#include "levels/levels_view.h"
#include "look/cell_table.h"
#include "network/assume.h"
#include "parts/registry.h"
#include "plan/pipe_strip.h"

namespace conduit::desktop {
namespace {

constexpr double g = 9.80665, pi = 3.14159265358979;
// Water at 10 °C (IAPWS): 999.70 kg/m³, 1.3059e-6 m²/s.
constexpr double density = 999.70, viscosity = 1.3065e-6;

// Colebrook-White by iteration; head lost over `length` at `q`, with the sum of K on top.
double lossOf(double q, double length, double bore, double roughness, double k = 0) {
  const double v = q / (pi / 4 * bore * bore), re = v * bore / viscosity;
  double x = 8;
  for (int i = 0; i < 60; ++i) x = -2 * std::log10(roughness / bore / 3.71 + 2.51 * x / re);
  return (length / bore / (x * x) + k) * v * v / (2 * g);
}

class FirstMinutes : public Layout {
 protected:
  // A letter counts with its click; a field typed and entered is one.
  void once(QPoint where) {
    click(where);
    ++steps;
    complete();
  }
  void entry(const QString& text) {  // into the first field of what is selected
    QTest::keyClicks(&plan(), text);
    key(Qt::Key_Return);
    ++steps;
    complete();
  }
  void length(const char* metres) {  // typed while a line is in the hand
    type(metres);
    ++steps;
  }
  void field(const char* name, const QString& text) {
    net().card().focusField(name);
    auto* edit = qobject_cast<QLineEdit*>(QApplication::focusWidget());
    ASSERT_NE(edit, nullptr) << name;
    edit->selectAll();
    QTest::keyClicks(edit, text);
    QTest::keyClick(edit, Qt::Key_Return);
    ++steps;
    complete();
  }
  void complete() {
    settle();
    for (const Problem& p : doc().solved()->solution.summary.problems)
      EXPECT_EQ(p.what.find("needs"), std::string::npos) << "after step " << steps << ": " << p.what;
    EXPECT_TRUE(plan().grab().size().isValid());
  }
  double flow(const char* name) { return *doc().solved()->solution.branch(id(name), 0).flow_m3s; }
  int steps = 0;
};

TEST_F(FirstMinutes, twoTanksAPumpALineBetween) {
  type("t");
  once({200, 250});
  entry("10");
  type("t");
  once({700, 250});
  entry("30");
  type("l");
  once(at(id("T-1")));
  length("500");
  once(at(id("T-2")));
  type("p");
  once(at(id("T-1")) * 0.9 + at(id("T-2")) * 0.1);  // near the lower tank, whose water it draws
  ASSERT_EQ(count("pump"), 1u);
  auto* ways = window->findChild<QComboBox*>("given.described by");
  emit ways->activated(ways->findData("given head"));
  ++steps;
  QApplication::processEvents();
  field("duty head", "28 m");
  EXPECT_LE(steps, 12);
  const Solution& s = doc().solved()->solution;
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  EXPECT_FALSE(doc().solved()->standing.onPaperOnly);
  // By hand: 28 m lift 20 m, and 8 m are lost in 500 m of 102.26 mm with an entrance of K 0.5 and an exit
  // of 1.
  double low = 1e-4, high = 0.05;
  for (int i = 0; i < 80; ++i) {
    const double q = (low + high) / 2;
    (lossOf(q, 500, 0.10226, 0.0457e-3, 1.5) < 8 ? low : high) = q;
  }
  EXPECT_NEAR(flow("P-1"), low, 2e-3 * low) << "to the digits of the viscosity";
  EXPECT_GT(flow("P-1"), 0) << "it points up, from the lower tank";
  EXPECT_TRUE(said().contains("assumed"));
}

TEST_F(FirstMinutes, threeParallelPipesBetweenAFixedPressureAndAnOutflow) {
  type("f");
  once({200, 250});
  entry("4 bar");
  type("n");
  once({700, 250});
  field("outflow", "30 L/s");
  plan().setFocus();
  const Id from = doc().network().at(id("F-1")).ends[0], to = id("N-2");
  ASSERT_NE(to, noId);
  type("l");
  once(at(from));
  for (const auto& [metres, end] : {std::pair{"100", to}, std::pair{"200", from}, std::pair{"400", to}}) {
    length(metres);
    once(at(end));
  }
  key(Qt::Key_Escape);
  EXPECT_LE(steps, 12);
  const Solution& s = doc().solved()->solution;
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  // By hand: one loss for all three, and their flows add up to 30 L/s.
  const double lengths[] = {100, 200, 400};
  double low = 0.01, high = 60;
  auto at = [&](double h, double length) {
    double a = 1e-6, b = 0.05;
    for (int i = 0; i < 80; ++i) {
      const double q = (a + b) / 2;
      (lossOf(q, length, 0.10226, 0.0457e-3) < h ? a : b) = q;
    }
    return a;
  };
  for (int i = 0; i < 60; ++i) {
    const double h = (low + high) / 2;
    double sum = 0;
    for (const double l : lengths) sum += at(h, l);
    (sum < 0.030 ? low : high) = h;
  }
  const char* names[] = {"L-1", "L-2", "L-3"};
  for (int i = 0; i < 3; ++i)
    EXPECT_NEAR(std::abs(flow(names[i])), at(low, lengths[i]), 2e-3 * 0.015) << names[i];
  const double pressure = 4e5 - low * density * g;
  EXPECT_NEAR(*s.head(to) * density * g, pressure, 2e-3 * 4e5);
}

TEST_F(FirstMinutes, tenPipesLeaveNothingIncompleteAndTheStripSaysWhatIsLaid) {
  type("l");
  auto* strip = window->findChild<PipeStrip*>("strip");
  ASSERT_TRUE(strip && strip->isVisible());
  auto* size = window->findChild<QLineEdit*>("strip.size");
  EXPECT_TRUE(size->placeholderText().contains("4 40")) << "assumed";
  EXPECT_TRUE(window->findChild<QLabel*>("strip.said")->text().contains("assumed"));
  click({120, 120});
  for (int i = 1; i <= 5; ++i) click({120 + 80 * i, 120});
  // From here on another pipe, as it is said.
  size->setFocus();
  QTest::keyClicks(size, "DN 80");
  if (QWidget* offered = QApplication::activePopupWidget()) offered->hide();
  QTest::keyClick(size, Qt::Key_Return);
  QApplication::processEvents();
  EXPECT_TRUE(plan().hasFocus()) << "the keyboard is back on the drawing";
  for (int i = 4; i >= 0; --i) click({120 + 80 * i, 260});
  key(Qt::Key_Escape);
  EXPECT_FALSE(strip->isVisible());
  settle();
  EXPECT_EQ(count("pipe"), 10u) << "Enter in the strip draws nothing";
  EXPECT_EQ(*doc().network().at(id("L-1")).text("size"), "ASME B36.10M 4 40");
  EXPECT_EQ(*doc().network().at(id("L-10")).text("size"), "ASME B36.10M 3 40");
  EXPECT_TRUE(doc().network().at(id("L-1")).values.assumed("size"));
  EXPECT_FALSE(doc().network().at(id("L-10")).values.assumed("size"));
  run("view.incomplete");
  EXPECT_TRUE(said().contains("Assumed value")) << said().toStdString();
  // What cannot be understood is said there, and nothing is taken.
  type("l");
  size->setFocus();
  size->selectAll();
  QTest::keyClicks(size, "as wide as a barn");
  QTest::keyClick(size, Qt::Key_Return);
  EXPECT_TRUE(window->findChild<QLabel*>("strip.said")->text().contains("is not a catalogue size or bore"))
      << window->findChild<QLabel*>("strip.said")->text().toStdString() << size->text().toStdString();
  QTest::keyClick(size, Qt::Key_Escape);
  EXPECT_TRUE(plan().hasFocus());
}

TEST_F(FirstMinutes, aLetterArmsAndAClickPlaces) {
  type("v");
  EXPECT_EQ(doc().network().count(), 0u);
  // Shift keeps it in the hand: three clicks, three valves, each with points of its own on empty paper.
  click({200, 200}, Qt::ShiftModifier);
  click({400, 200}, Qt::ShiftModifier);
  click({600, 200});
  EXPECT_EQ(count("isolating valve"), 3u);
  click({300, 100});
  EXPECT_EQ(count("isolating valve"), 3u) << "the last click was without Shift";
  for (const char* letter : {"f", "z"}) {
    type(letter);
    click({letter[0] == 'f' ? 200 : 400, 320});
  }
  EXPECT_EQ(count("fixed pressure"), 1u);
  EXPECT_EQ(count("nozzle"), 1u);
  // "Two tanks, L, click, click": the line runs from the first clicked to the second.
  type("t");
  click({200, 420});
  type("t");
  click({600, 420});
  type("l");
  click(at(id("T-1")));
  click(at(id("T-2")));
  ASSERT_EQ(count("pipe"), 1u);
  const Element& line = doc().network().at(id("L-1"));
  EXPECT_EQ(doc().network().elementsAt(line.ends[0]).front(), id("T-1"));
  // Delete takes what is selected, and only when the drawing has the keyboard.
  key(Qt::Key_Escape);
  doc().select({id("L-1")});
  net().card().focusField("length");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Delete);
  EXPECT_NE(id("L-1"), noId);
  plan().setFocus();
  key(Qt::Key_Delete);
  EXPECT_EQ(id("L-1"), noId);
}

TEST_F(FirstMinutes, anAssumedValueLooksItAndEnterKeepsIt) {
  type("l");
  click({200, 200});
  click({400, 200});
  key(Qt::Key_Escape);
  settle();
  doc().select({id("L-1")});
  QApplication::processEvents();
  auto* label = window->findChild<QLabel*>("label.roughness");
  ASSERT_NE(label, nullptr);
  EXPECT_TRUE(label->text().contains("assumed"));
  net().card().focusField("roughness");
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
  EXPECT_FALSE(doc().network().at(id("L-1")).values.assumed("roughness"));
  EXPECT_FALSE(window->findChild<QLabel*>("label.roughness")->text().contains("assumed"));
  doc().undo();
  EXPECT_TRUE(doc().network().at(id("L-1")).values.assumed("roughness"));
}

// What could not be judged is said beside the verdict; a click lists it, a second goes to the field that
// would tell; given there, it is gone from the list.
TEST_F(FirstMinutes, whatIsNotJudgedIsOneClickAway) {
  openSample("larch-court.lconduit");
  for (const char* valve : {"V-1", "V-2", "V-3"}) {
    const auto off = setField(doc().network(), id(valve), "FL", "", &shippedStock(), nullptr);
    ASSERT_TRUE(off);
    doc().take(*off);
  }
  settle();
  auto* second = window->findChild<QLabel*>("balance.second");
  EXPECT_TRUE(second->text().contains("3 not judged")) << second->text().toStdString();
  emit second->linkActivated("notJudged");
  settle();
  const CellRows& gaps = net().findingsPage().notJudged();
  ASSERT_EQ(gaps.rowCount(), 3);
  EXPECT_EQ(gaps.at(0, 0)->text, "Choking");
  EXPECT_EQ(gaps.at(0, 1)->text, "V-1");
  auto* table = window->findChild<CellTable*>("notJudged.table");
  QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualRect(gaps.index(0, 0)).center());
  settle();
  EXPECT_EQ(doc().selected(), id("V-1"));
  EXPECT_TRUE(QApplication::focusWidget() && QApplication::focusWidget()->objectName().contains("FL"));
  const auto set = setField(doc().network(), id("V-1"), "FL", "0.9", &shippedStock(), nullptr);
  ASSERT_TRUE(set);
  doc().take(*set);
  settle();
  QTRY_COMPARE(gaps.rowCount(), 2);
  EXPECT_TRUE(second->text().contains("2 not judged"));
}

TEST_F(FirstMinutes, draggingOneEndOfADeviceInLevelsMovesBoth) {
  openSample("millpond.lconduit");
  const Element pump = doc().network().at(doc().network().byName("P-1"));
  ASSERT_EQ(pump.ends.size(), 2u);
  const double before = doc().network().at(pump.ends[0]).given("height")->value;
  ASSERT_EQ(before, doc().network().at(pump.ends[1]).given("height")->value);
  doc().select({pump.ends[0]});
  settle();
  auto& levels = net().levels();
  levels.setFocus();
  QTest::keyClick(static_cast<QWidget*>(&levels), Qt::Key_Up);
  const double raised = doc().network().at(pump.ends[0]).given("height")->value;
  EXPECT_GT(raised, before);
  EXPECT_EQ(doc().network().at(pump.ends[1]).given("height")->value, raised);
}

// Typing over a found number: what could be found instead is listed in place with its value; Escape leaves
// all as it was, choosing one is one step.
TEST_F(FirstMinutes, aFoundNumberTypedOverIsExchangedInOneGesture) {
  openSample("kestrel-fell.lconduit");
  const std::string before = writeModel(doc().network());
  doc().select({id("J-3")});
  QApplication::processEvents();
  auto number = [&] { return window->findChild<QLabel*>("found.pressure"); };
  ASSERT_NE(number(), nullptr);
  const auto waitForOffers = [&] {
    return QTest::qWaitFor(
        [&] {
          auto* first = window->findChild<QToolButton*>("offer.0");
          return first && !first->accessibleName().endsWith("…");
        },
        20000);
  };
  number()->setFocus();
  QTest::keyClicks(number(), "9");
  auto* edit = window->findChild<QLineEdit*>("type.pressure");
  ASSERT_NE(edit, nullptr);
  EXPECT_TRUE(edit->hasFocus());
  QTest::keyClicks(edit, " bar");
  QTest::keyClick(edit, Qt::Key_Return);
  ASSERT_TRUE(waitForOffers());
  EXPECT_EQ(writeModel(doc().network()), before) << "nothing is changed by asking";
  EXPECT_TRUE(doc().current()) << "the last answer stays";
  QTest::keyClick(window->findChild<QToolButton*>("offer.0"), Qt::Key_Escape);
  QApplication::processEvents();
  EXPECT_EQ(window->findChild<QToolButton*>("offer.0"), nullptr);
  EXPECT_EQ(writeModel(doc().network()), before);

  number()->setFocus();
  QTest::keyClick(number(), Qt::Key_F2);
  edit = window->findChild<QLineEdit*>("type.pressure");
  ASSERT_NE(edit, nullptr);
  QTest::keyClicks(edit, "9 bar");
  QTest::keyClick(edit, Qt::Key_Return);
  ASSERT_TRUE(waitForOffers());
  QToolButton* good = nullptr;
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        for (int i = 0; i < 8 && !good; ++i)
          if (auto* b = window->findChild<QToolButton*>(QString("offer.%1").arg(i));
              b && b->isEnabled() && !b->accessibleName().endsWith("…"))
            good = b;
        return good != nullptr;
      },
      20000));
  const std::size_t steps_ = doc().history().at();
  QTest::mouseClick(good, Qt::LeftButton);
  QApplication::processEvents();
  settle();
  EXPECT_EQ(doc().history().at(), steps_ + 1) << "one step";
  ASSERT_TRUE(doc().solved()->solution.summary.usable());
  const Solution& s = doc().solved()->solution;
  const Id j = id("J-3");
  EXPECT_NEAR(s.setting.medium.pressureOf(*s.head(j) - doc().network().at(j).given("height")->value), 9e5,
              20);
  doc().undo();
  EXPECT_EQ(writeModel(doc().network()), before);
}

TEST_F(FirstMinutes, unsavedWorkIsALinkThatRecoversAndLimitsStayInSight) {
  openSample("kestrel-fell.lconduit");
  const QString left = dir.filePath("fell-1.lconduit");
  const Id job[] = {jobId};
  ASSERT_TRUE(doc().setField(job, "title", "Left behind"));
  ASSERT_TRUE(saveModel(doc().model(), left.toStdString()));
  openSample("kestrel-fell.lconduit");
  window->offerRecovery(left);
  EXPECT_TRUE(said().contains("Recover unsaved work from fell"));
  EXPECT_TRUE(said().contains("limits not met")) << said().toStdString();
  emit doc().said("something in passing");
  EXPECT_TRUE(said().contains("limits not met") && said().contains("in passing") &&
              said().contains("Recover"));
  emit window->findChild<QLabel*>("balance.second")->linkActivated("offered");
  QApplication::processEvents();
  settle();
  EXPECT_EQ(doc().title(), "Left behind");
  EXPECT_FALSE(said().contains("Recover unsaved"));
}

TEST_F(FirstMinutes, undoAfterARefusedEntryGivesTheFieldBack) {
  openSample("millpond.lconduit");
  doc().select({id("L-4")});
  QApplication::processEvents();
  net().card().focusField("bore");
  auto* edit = qobject_cast<QLineEdit*>(QApplication::focusWidget());
  ASSERT_NE(edit, nullptr);
  const QString was = edit->text();
  edit->selectAll();
  QTest::keyClicks(edit, "a barn door");
  QTest::keyClick(edit, Qt::Key_Return);
  EXPECT_TRUE(edit->property("refused").toBool());
  EXPECT_EQ(edit->text(), "a barn door") << "what was typed stays, to be mended";
  QTest::keyClick(edit, Qt::Key_Z, Qt::ControlModifier);
  EXPECT_FALSE(edit->property("refused").toBool());
  EXPECT_EQ(edit->text(), was);
  EXPECT_FALSE(doc().history().canUndo()) << "no step of the model was taken back, as none was made";
}

TEST_F(FirstMinutes, theLedgerShowsWhatIsUsedAndWhereTheRestComesFrom) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(1);
  QApplication::processEvents();
  const auto set = net().ledger().columns();
  EXPECT_TRUE(set.keys.contains("name") && set.keys.contains("found flow"));
  EXPECT_LT(set.keys.size(), 16) << set.keys.join(", ").toStdString();
  for (const QString& key : {QString("given section"), QString("given n"), QString("given joints")})
    EXPECT_FALSE(set.keys.contains(key)) << key.toStdString();
  EXPECT_TRUE(window->findChild<QToolButton*>("ledger.columns")->text().contains(" of "));
}

// Two tanks of one level: nothing flows, and it looks so. Whatever is selected has a route, with its level.
TEST_F(FirstMinutes, aStillNetworkIsStillAndHasARoute) {
  for (const QPoint& place : {QPoint(200, 250), QPoint(700, 250)}) {
    type("t");
    click(place);
    entry("12");
  }
  type("l");
  once(at(id("T-1")));
  once(at(id("T-2")));
  key(Qt::Key_Escape);
  settle();
  ASSERT_TRUE(doc().solved()->solution.summary.usable());
  for (const char* name : {"L-1", "T-1", "T-2", "N-1", "N-2"}) {
    doc().select({id(name)});
    QApplication::processEvents();
    EXPECT_FALSE(net().levels().route().empty()) << name;
    ASSERT_FALSE(net().levels().profile().stations.empty()) << name;
    EXPECT_NEAR(*net().levels().profile().stations.front().energy_m, 12, 1e-6) << name;
  }
  doc().select({id("L-1")});
  QApplication::processEvents();
  EXPECT_TRUE(window->findChild<QLabel*>("found.velocity")->text().contains(">0<"));
  EXPECT_EQ(window->findChild<QLabel*>("story")->text(), "No flow.");
}

// A flow has a size and a direction; a minus asked of a pipe is the other direction.
TEST_F(FirstMinutes, aLineDrawnAgainstItsFlowHasNoMinus) {
  openSample("kestrel-fell.lconduit");
  const Id line = id("L-5");
  doc().select({line});
  QApplication::processEvents();
  const QString before = window->findChild<QLabel*>("found.flow")->text();
  EXPECT_TRUE(window->findChild<QLabel*>("way.flow")->text().contains("N-9 → N-10"));
  doc().take(reverseAll(doc().network(), std::array{line}));
  settle();
  QApplication::processEvents();
  EXPECT_EQ(window->findChild<QLabel*>("found.flow")->text(), before);
  EXPECT_TRUE(window->findChild<QLabel*>("way.flow")->text().contains("N-9 → N-10"))
      << "the liquid goes on as it did";
  doc().select({id("Top tank")});
  QApplication::processEvents();
  EXPECT_EQ(window->findChild<QLabel*>("way.flow out")->text(), "Takes");
  EXPECT_FALSE(window->findChild<QLabel*>("found.flow out")->text().contains("−"));
}

}  // namespace
}  // namespace conduit::desktop
