// The real window driven by hand and keys: what an engineer does in the first ten minutes.
#include <gtest/gtest.h>

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QSignalSpy>
#include <QSplitter>
#include <QTableView>
#include <QTableWidget>
#include <QTemporaryDir>
#include <QTest>
#include <QToolButton>
#include <QWheelEvent>
#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

#include "card/card.h"
#include "command_line.h"
#include "drawer/ledger.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "levels/levels_view.h"
#include "solve/random_network.h"
#include "solve/solve.h"
#include "window_fixture.h"

namespace conduit::desktop {
namespace {

class Journey : public WindowTest {
 protected:
  void click(QPoint at) {
    QTest::mouseMove(&plan(), at);
    QTest::mouseClick(&plan(), Qt::LeftButton, {}, at);
  }
  void keys(const char* text) { QTest::keyClicks(QApplication::focusWidget(), text); }
  void press(Qt::Key key, Qt::KeyboardModifiers with = {}) {
    QTest::keyClick(QApplication::focusWidget(), key, with);
  }
  template <class W>
  W* find(const QString& name) {
    W* w = window->findChild<W*>(name);
    EXPECT_NE(w, nullptr) << name.toStdString();
    return w;
  }
  // Types into a field of the card, as a person does: into the field, all of it, new text, Enter.
  void give(const QString& field, const QString& text) {
    net().card().focusField(field);
    QApplication::processEvents();
    auto* edit = find<QLineEdit>("given." + field);
    ASSERT_NE(edit, nullptr);
    edit->setFocus();
    edit->selectAll();
    QTest::keyClicks(edit, text);
    QTest::keyClick(edit, Qt::Key_Return);
    settle();
  }
  QString found(const QString& outcome) {
    auto* label = find<QLabel>("found." + outcome);
    QString plain = label ? label->text() : QString();
    return plain.remove(QRegularExpression("<[^>]*>")).trimmed();
  }
  Id only(std::string_view kind) {
    Id id = noId;
    doc().network().each([&](Id i, const Element& e) {
      if (e.part->key == kind) id = i;
    });
    return id;
  }

  QTemporaryDir dir;
};

TEST_F(Journey, drawsAPumpedLineFromAnEmptySheetAndGetsTheSameNumbersFromTheCommandLine) {
  // A pond, a line with a pump in it, a tank above: keyboard and mouse only.
  plan().setFocus();
  keys("T");
  click({200, 300});
  ASSERT_EQ(doc().network().count(), 1u);
  plan().setFocus();
  keys("42 m");
  press(Qt::Key_Return);  // the level of the tank just placed
  keys("L");              // a line from the tank
  click({200, 300});
  click({360, 300});
  EXPECT_NE(only("pipe"), noId);
  keys("P");  // a pump into the line being drawn
  ASSERT_NE(only("pump"), noId);
  QTest::mouseMove(&plan(), {640, 220});
  keys("120");  // typed while drawing: length, then rise
  press(Qt::Key_Tab);
  keys("18");
  press(Qt::Key_Return);
  press(Qt::Key_Escape);
  settle();
  // Nothing is incomplete on the way: what nobody has said is assumed, and counted.
  EXPECT_TRUE(doc().solved()->solution.summary.usable()) << doc().solved()->solution.summary.full();
  EXPECT_TRUE(find<QLabel>("balance.second")->text().contains("assumed"));
  // Both pipes at once: a click, a click with Shift; bore and roughness go to both. Then the first one's
  // length.
  std::vector<Id> pipes;
  doc().network().each([&](Id id, const Element& e) {
    if (e.part->key == "pipe") pipes.push_back(id);
  });
  ASSERT_EQ(pipes.size(), 2u);
  EXPECT_EQ(doc().network().at(pipes[1]).given("length")->typed, "120 m");
  press(Qt::Key_0, Qt::ControlModifier);  // fit, to have all in sight
  const auto at = [&](Id id) { return plan().toScreen(spotOf(doc().network(), id)).toPoint(); };
  click(at(pipes[0]));
  QTest::mouseClick(&plan(), Qt::LeftButton, Qt::ShiftModifier, at(pipes[1]));
  ASSERT_EQ(doc().selection().size(), 2u);
  give("bore", "50 mm");
  give("roughness", "0.05 mm");
  click(at(pipes[0]));
  give("length", "10 m");
  // The pump's curve, typed into its table cell by cell.
  click(at(only("pump")));
  auto* ways = find<QComboBox>("given.described by");
  ASSERT_NE(ways, nullptr);
  ASSERT_GE(ways->findData("curve"), 0);
  emit ways->activated(ways->findData("curve"));
  QApplication::processEvents();
  for (const auto& [row, flow, head] :
       {std::tuple{0, "0 L/s", "40 m"}, std::tuple{1, "2 L/s", "34 m"}, std::tuple{2, "4 L/s", "18 m"}}) {
    if (row > 0 && !window->findChild<QTableWidget*>("given.curve"))
      QTest::mouseClick(find<QToolButton>("fold.curve"), Qt::LeftButton);
    QApplication::processEvents();
    for (const auto& [column, cell] : {std::pair{0, flow}, std::pair{1, head}}) {
      auto* table = find<QTableWidget>("given.curve");
      ASSERT_NE(table, nullptr);
      table->setFocus();
      table->setCurrentCell(row, column);
      QTest::keyClick(table, Qt::Key_F2);
      auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
      ASSERT_NE(editor, nullptr);
      editor->selectAll();
      QTest::keyClicks(editor, cell);
      QTest::keyClick(editor, Qt::Key_Return);
      QApplication::processEvents();
    }
    settle();
  }
  ASSERT_EQ(doc().network().at(only("pump")).rows("curve")->size(), 3u);
  // And the draw at the far end.
  click(plan().toScreen(doc().network().at(doc().network().at(pipes[1]).ends[1]).at).toPoint());
  give("outflow", "1.5 L/s");
  ASSERT_TRUE(doc().solved()->solution.summary.usable()) << doc().solved()->solution.summary.full();
  EXPECT_TRUE(find<QLabel>("balance")->text().contains("Solved"));

  // Read the found head on the card and open its working.
  click(at(only("pump")));
  settle();
  // H = 40 − a·1.5^b with b = ln(22/6)/ln 2, a = 6/2^b (three points, by hand).
  const double b = std::log(22.0 / 6.0) / std::log(2.0), head = 40 - 6 * std::pow(1.5 / 2.0, b);
  EXPECT_EQ(found("head"), QString("%1 m").arg(head, 0, 'f', 3));
  QTest::mouseClick(find<QToolButton>("working.head"), Qt::LeftButton);
  EXPECT_TRUE(net().card().workingShown());
  EXPECT_TRUE(find<QLabel>("working")->text().contains("curve through three points"));
  press(Qt::Key_Space);  // the focus is on the way back
  EXPECT_FALSE(net().card().workingShown());

  // Undo to the empty sheet, redo to the same model.
  const std::string whole = writeModel(doc().network());
  plan().setFocus();
  while (doc().history().canUndo()) press(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(doc().network().count(), 0u);
  while (doc().history().canRedo()) press(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_EQ(writeModel(doc().network()), whole);
  settle();

  // Save, reopen: the same numbers as the command line gives.
  const QString file = dir.filePath("line.lconduit");
  ASSERT_TRUE(doc().save(file));
  EXPECT_FALSE(doc().dirty());
  const double before = *doc().solved()->solution.head(doc().network().at(pipes[1]).ends[1]);
  const std::string text = writeModel(doc().network());
  ASSERT_TRUE(window->openFile(file));
  settle();
  EXPECT_EQ(writeModel(doc().network()), text);
  std::ostringstream out, err;
  const int status = conduit::cli::run({"solve", file.toStdString(), "--json"}, out, err);
  EXPECT_LE(status, 1) << err.str();
  for (const auto& p : nlohmann::json::parse(out.str())["points"])
    if (p["outflow_m3_s"].get<double>() > 0) EXPECT_NEAR(p["head_m"].get<double>(), before, 1e-9);
}

TEST_F(Journey, aFoundLevelAndAFoundPressureAreOneClickAway) {
  openSample("kestrel-fell.lconduit");
  doc().select({doc().network().byName("Top tank")});
  settle();
  QTest::mouseClick(find<QToolButton>("swap.level"), Qt::LeftButton);
  QApplication::processEvents();
  settle();
  ASSERT_TRUE(doc().solved()->solution.summary.usable());
  EXPECT_TRUE(found("level").startsWith("692.4")) << "nothing jumps: " << found("level").toStdString();
  give("flow out", "-4 L/s");  // less may go up: what level would that ask for?
  ASSERT_TRUE(doc().solved()->solution.summary.usable());
  EXPECT_GT(doc().solved()->solution.vesselHead_m[doc().solved()->solution.vesselBegin[doc().selected()]],
            692.5);
}

TEST_F(Journey, anyOutcomeIsGivenAndAnyFieldFoundByTheMarkers) {
  openSample("kestrel-fell.lconduit");
  // The pressure behind a reducing valve is found; given, it asks for something to be found; the balance line
  // offers it.
  const Id valve = doc().network().byName("V-1");
  const Id point = doc().network().at(valve).ends[1];
  doc().select({point});
  settle();
  const QString before = found("pressure");
  const Part* part = doc().network().at(point).part;
  const double exact = *outcomeOf(*part, "pressure", **doc().solved()->reading(point, part));
  QTest::mouseClick(find<QToolButton>("give.pressure"), Qt::LeftButton);
  QApplication::processEvents();
  settle();
  EXPECT_NEAR(doc().network().at(point).values.goal("pressure")->value, exact, 4e-16 * std::abs(exact))
      << "it keeps all its digits";
  const QString whole = QString::fromStdString(doc().network().at(point).values.goal("pressure")->typed);
  auto* edit = find<QLineEdit>("given.pressure");
  EXPECT_LE(edit->text().size(), 14) << "and shows six: " << edit->text().toStdString();
  edit->setFocus();
  EXPECT_EQ(edit->text(), whole) << "until it is worked on";
  plan().setFocus();
  EXPECT_LE(edit->text().size(), 14);
  const auto& problems = doc().solved()->solution.summary.problems;
  ASSERT_FALSE(doc().solved()->solution.summary.usable());
  ASSERT_FALSE(problems.empty());
  EXPECT_NE(problems.front().what.find("is given, but nothing that affects it is free to be solved for"),
            std::string::npos)
      << problems.front().what;
  // One click on the remedy: the set point is found, and nothing has jumped.
  const auto remedy =
      std::find_if(problems.front().remedies.begin(), problems.front().remedies.end(),
                   [](const Remedy& r) { return r.words.find("set point of V-1") != std::string::npos; });
  ASSERT_NE(remedy, problems.front().remedies.end()) << problems.front().remedies.front().words;
  doc().apply(Remedy(*remedy));
  settle();
  ASSERT_TRUE(doc().solved()->solution.summary.usable()) << doc().solved()->solution.summary.full();
  EXPECT_NEAR(doc().solved()->solution.foundFor(valve, "set point").value_or(0), 8.5e5, 1e3);
  doc().select({point});
  settle();
  // A given outcome is typed like any field; saved and read again it is still there.
  give("pressure", "8.2 bar");
  settle();
  EXPECT_NEAR(doc().solved()->solution.foundFor(valve, "set point").value_or(0), 8.2e5, 10);
  const std::string text = writeModel(doc().network());
  EXPECT_NE(text.find(R"("given": {"pressure":"8.2 bar"})"), std::string::npos);
  EXPECT_EQ(writeModel(*readDrawn(text, nullptr)), text);
  // The marker gives the set point again as it was found.
  QTest::mouseClick(find<QToolButton>("give.pressure"), Qt::LeftButton);
  QApplication::processEvents();
  doc().select({valve});
  settle();
  QTest::mouseClick(find<QToolButton>("swap.set point"), Qt::LeftButton);
  QApplication::processEvents();
  settle();
  EXPECT_TRUE(doc().solved()->solution.summary.usable());
}

TEST_F(Journey, undoGoesToTheEmptySheetAndRedoBack) {
  plan().setFocus();
  keys("L");
  click({200, 300});
  click({400, 300});
  click({400, 150});
  press(Qt::Key_Escape);
  settle();
  const std::string drawn = writeModel(doc().network());
  EXPECT_EQ(doc().network().count(), 5u);
  while (doc().history().canUndo()) press(Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(doc().network().count(), 0u);
  while (doc().history().canRedo()) press(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_EQ(writeModel(doc().network()), drawn);
}

TEST_F(Journey, aTankLevelDraggedInLevelsMovesTheGradeWithTheHand) {
  openSample("kestrel-fell.lconduit");
  auto& levels = net().levels();
  const TankMark tarn = levels.profile().tanks.front();
  EXPECT_NEAR(tarn.level_m, 312.0, 1e-9);
  const auto headAt = [&] { return *doc().solved()->solution.head(doc().network().byName("N-3")); };
  const double before = headAt();
  const QPoint at = levels.toScreen(tarn.along_m, tarn.level_m).toPoint() - QPoint(0, 4);
  QTest::mousePress(&levels, Qt::LeftButton, {}, at);
  for (int i = 1; i <= 3; ++i) QTest::mouseMove(&levels, at - QPoint(0, 2 * i));
  settle();
  EXPECT_GT(headAt(), before + 2.0) << "the suction's head rises with the level";
  const double level = doc().network().at(tarn.tank).given("level")->value;
  EXPECT_GT(level, 314.0);
  QTest::mouseRelease(&levels, Qt::LeftButton, {}, at - QPoint(0, 6));
  settle();
  EXPECT_NEAR(levels.profile().tanks.front().level_m, level, 1e-9);
  // The whole drag is one step.
  doc().undo();
  settle();
  EXPECT_FALSE(doc().history().canUndo());
  EXPECT_NEAR(headAt(), before, 1e-9);
}

TEST_F(Journey, selectionIsOneInPlanLevelsCardAndLedger) {
  openSample("kestrel-fell.lconduit");
  const Id booster = doc().network().byName("B-1");
  click(plan().toScreen(spotOf(doc().network(), booster)).toPoint());
  EXPECT_EQ(doc().selected(), booster);
  EXPECT_EQ(find<QLineEdit>("name")->text(), "B-1");
  QTest::keyClick(window.get(), Qt::Key_F4);
  QApplication::processEvents();
  EXPECT_TRUE(net().ledger().isVisible());
  // The other way: from the ledger to the card.
  auto* kind = find<QComboBox>("ledger.kind");
  kind->setCurrentIndex(kind->findData("reducing valve"));
  net().ledger().table()->setFocus();
  net().ledger().table()->selectRow(1);
  EXPECT_EQ(doc().selected(), doc().network().byName("V-2"));
  EXPECT_EQ(find<QLineEdit>("name")->text(), "V-2");
}

TEST_F(Journey, theLedgerFiltersEditsAndCopiesOut) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(1);
  auto* table = net().ledger().table();
  auto* kind = find<QComboBox>("ledger.kind");
  kind->setCurrentIndex(kind->findData("pump"));
  EXPECT_EQ(table->model()->rowCount(), 4);
  QTest::keyClicks(find<QLineEdit>("ledger.filter"), "B-");
  EXPECT_EQ(table->model()->rowCount(), 2);
  int speed = -1;
  for (int c = 0; c < table->model()->columnCount(); ++c)
    if (table->model()->headerData(c, Qt::Horizontal).toString() == "● speed") speed = c;
  ASSERT_GE(speed, 0);
  ASSERT_TRUE(table->model()->setData(table->model()->index(0, speed), "2900 rpm", Qt::EditRole));
  settle();
  EXPECT_EQ(doc().network().at(doc().network().byName("B-1")).given("speed")->typed, "2900 rpm");
  EXPECT_FALSE(table->model()->setData(table->model()->index(0, speed), "2,900 rpm", Qt::EditRole));
  EXPECT_TRUE(find<QLabel>("balance.second")->text().contains("ambiguous"));
  table->clearSelection();
  net().ledger().copyOut();
  const QStringList lines = QApplication::clipboard()->text().trimmed().split('\n');
  ASSERT_EQ(lines.size(), 3);
  EXPECT_TRUE(lines[0].startsWith("name\tfrom\tto"));
  EXPECT_EQ(lines[1].split('\t').size(), lines[0].split('\t').size());
}

TEST_F(Journey, theMarkerSwapsTheCurveForADuty) {
  openSample("kestrel-fell.lconduit");
  doc().select({doc().network().byName("B-1")});
  settle();
  const QString flow = found("flow");
  QTest::mouseClick(find<QToolButton>("swap.curve"), Qt::LeftButton);
  QApplication::processEvents();
  settle();
  ASSERT_TRUE(doc().solved()->solution.summary.usable());
  EXPECT_TRUE(doc().network().at(doc().selected()).values.released("curve"));
  EXPECT_EQ(find<QLineEdit>("given.duty flow")->text().left(4), flow.left(4))
      << "nothing jumps: the duty is the flow as it stood";
  give("duty flow", "38 L/s");
  ASSERT_TRUE(doc().solved()->solution.summary.usable());
  EXPECT_TRUE(find<QLabel>("story")->text().startsWith("Required head"));
  QTest::mouseClick(find<QToolButton>("swap.duty flow"), Qt::LeftButton);
  QApplication::processEvents();
  settle();
  EXPECT_FALSE(doc().network().at(doc().selected()).values.released("curve"));
  EXPECT_EQ(found("flow"), flow);
}

TEST_F(Journey, wrongTypingIsSaidAndChangesNothing) {
  openSample("millpond.lconduit");
  doc().select({doc().network().byName("L-3")});
  const std::string before = writeModel(doc().network());
  for (const char* text : {"1,100 m", "12 parsec", "-4 m", "abc"}) {
    auto* edit = find<QLineEdit>("given.length");
    edit->setFocus();
    edit->selectAll();
    QTest::keyClicks(edit, text);
    QTest::keyClick(edit, Qt::Key_Return);
    EXPECT_EQ(writeModel(doc().network()), before) << text;
    EXPECT_TRUE(find<QLineEdit>("given.length")->property("refused").toBool()) << text;
    EXPECT_FALSE(find<QLabel>("balance.second")->text().isEmpty());
  }
}

TEST_F(Journey, unitsAndLookChangeNothingInTheModel) {
  openSample("kestrel-fell.lconduit");
  const std::string before = writeModel(doc().network());
  doc().setUnits(*UnitSet::find("US"));
  settle();
  EXPECT_TRUE(find<QLabel>("balance")->text().contains("gpm"));
  window->setLook(true);
  window->setLook(false);
  EXPECT_EQ(writeModel(doc().network()), before);
  EXPECT_FALSE(doc().dirty());
}

TEST_F(Journey, unsavedChangesAreGuardedAndKeptForRecovery) {
  openSample("millpond.lconduit");
  const Id ids[] = {doc().network().byName("Pond")};
  ASSERT_TRUE(doc().setField(ids, "level", "42.5 m"));
  EXPECT_TRUE(doc().dirty());
  drop = false;
  EXPECT_FALSE(window->openFile(SOURCE_DIR "/samples/kestrel-fell.lconduit"));
  EXPECT_EQ(asked, 1);
  EXPECT_NE(doc().network().byName("Pond"), noId) << "still here";
  const std::string text = writeModel(doc().network());
  doc().keepRecovery();
  doc().undo();
  EXPECT_FALSE(doc().dirty()) << "back at what is on disk";
  doc().redo();
  for (const QString& file : Document::leftBehind())
    EXPECT_FALSE(file.endsWith(QString("-%1.lconduit").arg(QCoreApplication::applicationPid())))
        << "this program still runs";
  drop = true;
  EXPECT_EQ(writeModel(doc().network()), text);
  doc().dropRecovery();
}

// What no desk works with yet (costs, set-ups of studies) is of the model: an edit, undo, saving and recovery
// carry it along.
TEST_F(Journey, theWholeModelGoesThroughEditUndoSaveAndRecovery) {
  ASSERT_TRUE(window->openFile(SOURCE_DIR "/tests/exchange/versions/version_2.lconduit"));
  settle();
  const Model opened = doc().model();
  ASSERT_NE(opened.drawn.job().extra.find("sheet"), std::string::npos);
  const auto carried = [&](const Model& model) {
    return model.drawn.job().extra == opened.drawn.job().extra && model.setups == opened.setups &&
           model.costs == opened.costs && model.costsExtra == opened.costsExtra;
  };
  const Id ids[] = {doc().network().byName("L-1")};
  ASSERT_TRUE(doc().setField(ids, "length", "250 m"));
  doc().undo();
  doc().redo();
  const QString saved = dir.filePath("whole.lconduit");
  ASSERT_TRUE(doc().save(saved));
  const auto again = loadModel(saved.toStdString(), &shippedStock());
  ASSERT_TRUE(again);
  EXPECT_TRUE(carried(*again));
  EXPECT_EQ(again->drawn.at(again->drawn.byName("L-1")).given("length")->typed, "250 m");
  const QString left = dir.filePath("left-0.lconduit");
  ASSERT_TRUE(QFile::copy(saved, left));
  ASSERT_TRUE(doc().recover(left));
  EXPECT_TRUE(carried(doc().model()));
  doc().dropRecovery();
}

TEST_F(Journey, aBrokenFileLeavesTheOpenModelAlone) {
  openSample("millpond.lconduit");
  const std::string before = writeModel(doc().network());
  const QString file = dir.filePath("bad.lconduit");
  std::ofstream(file.toStdString()) << "{\"format\":\"level-conduit\",\"version\":1,\"points\":[{\"name\":"
                                       "\"A\",\"height\":\"5 bananas\"}]}";
  EXPECT_FALSE(window->openFile(file));
  EXPECT_EQ(writeModel(doc().network()), before);
  EXPECT_TRUE(find<QLabel>("balance.second")->text().contains("bananas"));
}

TEST_F(Journey, pulledApartInAnyOrderWhileItSolvesItNeverFails) {
  openSample("kestrel-fell.lconduit");
  std::uint64_t state = 7;
  while (doc().network().count() > 0) {
    std::vector<Id> ids;
    doc().network().each([&](Id id, const Element&) { ids.push_back(id); });
    state = state * 6364136223846793005ULL + 1442695040888963407ULL;
    doc().select({ids[(state >> 33) % ids.size()]});
    plan().setFocus();
    press(Qt::Key_Delete);
    if (state % 3 == 0) QApplication::processEvents();
  }
  settle();
  EXPECT_TRUE(doc().solved()->fault.empty());
  while (doc().history().canUndo()) doc().undo();
  settle();
  EXPECT_TRUE(doc().solved()->solution.summary.usable());
}

TEST_F(Journey, everyControlHasANameAndIsReachedByKeyboard) {
  openSample("kestrel-fell.lconduit");
  doc().select({doc().network().byName("P-1")});
  settle();
  for (QWidget* w : window->findChildren<QWidget*>()) {
    if (!w->isVisibleTo(window.get()) || w->focusPolicy() == Qt::NoFocus || w->objectName().startsWith("qt_"))
      continue;
    if (!qobject_cast<QAbstractButton*>(w) && !qobject_cast<QLineEdit*>(w) && !qobject_cast<QComboBox*>(w))
      continue;
    const auto* button = qobject_cast<QAbstractButton*>(w);
    EXPECT_FALSE(w->accessibleName().isEmpty() && (!button || button->text().isEmpty()))
        << w->metaObject()->className() << " " << w->objectName().toStdString();
  }
}

// A large drawing under the hand: it moves with the pointer, an edit is answered as from nothing, and the
// picture shows it.
TEST_F(Journey, aLargeDrawingFollowsTheHandAndTheEdit) {
  const QString file = dir.filePath("grid.lconduit");
  ASSERT_TRUE(saveModel(Model{test::gridNetwork(10000, 3)}, file.toStdString()));
  ASSERT_TRUE(window->openFile(file));
  settle();
  const QPointF before = plan().toScreen({0, 0});
  QTest::mousePress(&plan(), Qt::MiddleButton, {}, {400, 200});
  for (int i = 0; i <= 10; ++i) QTest::mouseMove(&plan(), {400 + 3 * i, 200 + 2 * i});
  QTest::mouseRelease(&plan(), Qt::MiddleButton, {}, {430, 220});
  const QPointF moved = plan().toScreen({0, 0}) - before;
  EXPECT_NEAR(moved.x(), 30, 1e-9);
  EXPECT_NEAR(moved.y(), 20, 1e-9);
  const Spot under = plan().toPlan({400, 200});
  for (int i = 0; i < 6; ++i) {
    QWheelEvent wheel({400, 200}, plan().mapToGlobal(QPointF(400, 200)), {}, {0, 40}, Qt::NoButton, {},
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(&plan(), &wheel);
  }
  const Spot still = plan().toPlan({400, 200});
  EXPECT_NEAR(still.x, under.x, 1e-6) << "what is under the pointer stays there";
  EXPECT_NEAR(still.y, under.y, 1e-6);
  EXPECT_GT(QLineF(plan().toScreen({0, 0}), plan().toScreen({1, 0})).length(), 0);
  const Id ids[] = {only("pipe")};
  for (const int bore : {60, 320}) {
    ASSERT_TRUE(doc().setField(ids, "bore", QString("%1 mm").arg(bore)));
    settle();
    const Solution cold = solve(doc().network(), doc().stock());
    ASSERT_TRUE(cold.summary.usable());
    double worst = 0;
    doc().network().each([&](Id line, const Element& e) {
      if (e.part->key == "pipe")
        worst = std::max(worst, std::abs(*cold.branch(line, 0).flow_m3s -
                                         *doc().solved()->solution.branch(line, 0).flow_m3s));
    });
    EXPECT_LT(worst, 1e-8) << bore;  // both balanced to 1e-9 of what passes
  }
  const auto valves = [&] {
    int n = 0;
    doc().network().each([&](Id, const Element& e) { n += e.part->group == Group::restrain; });
    return n;
  };
  const int had = valves();
  doc().select({ids[0]});
  plan().setFocus();
  QTest::keyClicks(&plan(), "v");
  press(Qt::Key_Return);
  settle();
  EXPECT_EQ(valves(), had + 1);
  EXPECT_TRUE(doc().solved()->solution.summary.usable());
}

TEST(Contrast, textStandsOutInBothLooks) {
  // WCAG 2.1 contrast ratio, at least 4.5 : 1 for text.
  auto luminance = [](const QColor& c) {
    auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
  };
  for (const Look& look : {Look::light(), Look::night()})
    for (const QColor& text : {look.ink, look.ink2, look.water, look.warning})
      for (const QColor& ground : {look.paper, look.sheet, look.field}) {
        const double a = luminance(text), b = luminance(ground);
        EXPECT_GE((std::max(a, b) + 0.05) / (std::min(a, b) + 0.05), 4.5)
            << text.name().toStdString() << " on " << ground.name().toStdString();
      }
}

}  // namespace
}  // namespace conduit::desktop
