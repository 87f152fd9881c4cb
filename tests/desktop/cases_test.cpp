// The Cases desk, by hand: a case made, a value differed, a swap in it, an outcome watched, all undone; what
// the card and the balance line say of it.
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QElapsedTimer>
#include <QFileInfo>
#include <QLabel>
#include <QLineEdit>
#include <QScrollBar>
#include <QTemporaryDir>
#include <QToolButton>

#include <cmath>
#include <fstream>

#include "card/card.h"
#include "desks/cases/case_card.h"
#include "desks/cases/cases_desk.h"
#include "desks/cases/grid_view.h"
#include "desks/cases/sweep_pane.h"
#include "drawer/findings_page.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "look/cell_table.h"
#include "model/sweep_setup.h"
#include "model/watched.h"
#include "parts/registry.h"
#include "plot/plot.h"
#include "window/finder.h"
#include "window_fixture.h"

namespace conduit::desktop {
namespace {

class CasesByHand : public WindowTest {
 protected:
  CasesDesk& desk() { return window->deskOf<CasesDesk>(); }
  GridModel& model() { return desk().model(); }
  GridView& grid() { return desk().grid(); }
  void openSmall() {
    // A valve of Kv 60 between held heads of 50 m and 20 m: Q = 60·√(9.80665·30/100) m³/h.
    const QString file = dir.filePath("small.lconduit");
    std::ofstream(file.toStdString())
        << R"({"format":"level-conduit","version":2,"points":[{"name":"A","at":[0,0],"height":"0 m"},{"name":"C","at":[90,0],"height":"0 m"}],
"elements":[{"kind":"fixed pressure","name":"S","point":"A","pressure":"50 m"},{"kind":"fixed pressure","name":"E","point":"C","pressure":"20 m"},
{"kind":"control valve","name":"V","from":"A","to":"C","Kv":"60 Kv","opening":"100 %"}]})";
    ASSERT_TRUE(window->openFile(file));
    settle();
    QTest::keyClick(window.get(), Qt::Key_4, Qt::AltModifier);
    EXPECT_EQ(&window->desk(), &desk());
    rest();
  }
  // Until every case has its answer and the desk shows it.
  void rest() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return doc().allCurrent(); }, 10000));
    QTest::qWait(80);
  }
  void add(const char* words) {
    auto* edit = desk().findChild<QLineEdit*>("cases.add");
    edit->setFocus();
    QTest::keyClicks(edit, words);
    QTest::keyClick(edit, Qt::Key_Return);
    rest();
  }
  QModelIndex at(const std::string& what, int column) {
    for (int r = 0; r < model().rowCount(); ++r) {
      const auto spot = model().at(model().index(r, 0));
      if (spot.line && spot.line->whose + " " + spot.line->what == what) return model().index(r, column);
    }
    ADD_FAILURE() << "no row " << what;
    return {};
  }
  const GridCell& cell(const std::string& what, int column) {
    static const GridCell none;
    const auto spot = model().at(at(what, column));
    return spot.cell() ? *spot.cell() : none;
  }
  void type(const QModelIndex& where, const char* words) {
    grid().setFocus();
    grid().setCurrentIndex(where);
    QTest::keyClicks(grid().viewport()->hasFocus() ? grid().viewport() : static_cast<QWidget*>(&grid()),
                     QString(words).left(1));
    auto* edit = grid().findChild<QLineEdit*>("grid.edit");
    ASSERT_TRUE(edit);
    QTest::keyClicks(edit, words + 1);
    QTest::keyClick(edit, Qt::Key_Return);
    rest();
  }
  QString balance() { return window->findChild<QLabel*>("balance")->text(); }
  QTemporaryDir dir;
};

}  // namespace

TEST_F(CasesByHand, aCaseIsMadeDifferedSwappedWatchedAndUndone) {
  openSmall();
  const std::string before = writeModel(doc().model());
  desk().newCase();
  rest();
  auto* name = desk().findChild<QLineEdit*>("case.name");
  EXPECT_TRUE(name->hasFocus()) << "to be named at once";
  QTest::keyClicks(name, "Night");
  QTest::keyClick(name, Qt::Key_Return);
  ASSERT_EQ(doc().model().cases.count(), 2u);
  EXPECT_EQ(doc().caseNow().name, "Night");
  EXPECT_TRUE(window->findChild<QToolButton*>("case")->text().contains("Night"));
  add("S pressure 38 m");
  EXPECT_EQ(cell("S pressure", 1).text, "50 m") << "a column of the liquid stays as it was typed";
  EXPECT_EQ(cell("S pressure", 2).text, "38 m");
  EXPECT_TRUE(cell("S pressure", 2).own);
  add("V flow");
  // 60·√(9.80665·30/100)/3.6 = 28.587 L/s and, of 18 m, 22.144 L/s.
  EXPECT_NEAR(*cell("V flow", 1).si * 1000, 28.587, 0.001);
  EXPECT_NEAR(*cell("V flow", 2).si * 1000, 22.144, 0.001);
  EXPECT_TRUE(balance().contains("all 2 cases")) << balance().toStdString();
  // 10 L/s is to flow there, and the opening is found: 36/(60·√1.765197) = 45.160 %.
  add("V opening");
  grid().setFocus();
  const QModelIndex opening = at("V opening", 2);
  grid().setCurrentIndex(opening);
  QTest::keyClick(&grid(), Qt::Key_Space);
  rest();
  EXPECT_TRUE(cell("V opening", 2).found);
  EXPECT_TRUE(balance().contains("needs") || !doc().solved()->usable())
      << "nothing says yet what it is found from";
  doc().setCase(doc().model().cases.others.front().id);
  doc().select({doc().network().byName("V")});
  window->finder().open("V given flow 10 L/s");
  window->finder().hide();
  const Id ids[] = {doc().network().byName("V")};
  ASSERT_TRUE(doc().setField(ids, "given flow", "10 L/s"));
  rest();
  EXPECT_NEAR(*cell("V opening", 2).si, 0.45160, 1e-5);
  EXPECT_FALSE(cell("V opening", 1).found) << "the drawing's stays given";
  EXPECT_EQ(doc().model().drawn.at(ids[0]).values.goal("flow"), nullptr);
  // Undone step by step, to the file as it was.
  while (doc().history().canUndo()) doc().undo();
  rest();
  EXPECT_EQ(writeModel(doc().model()), before);
  EXPECT_EQ(doc().currentCase(), drawingCase) << "the case is gone";
  while (doc().history().canRedo()) doc().redo();
  rest();
  EXPECT_NEAR(*cell("V opening", 2).si, 0.45160, 1e-5);
}

TEST_F(CasesByHand, cellsAreTypedPastedFilledAndInherited) {
  openSample("kestrel-fell.lconduit");
  window->showDeskOf<CasesDesk>();
  rest();
  type(at("Top tank level", 3), "689.9 m");
  EXPECT_EQ(cell("Top tank level", 3).text, "689.9");
  type(at("Top tank level", 1), "691");
  EXPECT_EQ(cell("Top tank level", 1).text, "691") << "the drawing's column, in the unit shown";
  EXPECT_EQ(cell("Top tank level", 2).text, "691") << "inherited by who says nothing of its own";
  EXPECT_EQ(cell("Top tank level", 3).text, "689.9");
  // Emptied it is as inherited; a text that cannot be read changes nothing and is said.
  grid().setFocus();
  grid().setCurrentIndex(at("Top tank level", 3));
  QTest::keyClick(&grid(), Qt::Key_Delete);
  rest();
  EXPECT_FALSE(cell("Top tank level", 3).own);
  const auto stamp = doc().history().stamp();
  type(at("Top tank level", 4), "bananas");
  EXPECT_EQ(doc().history().stamp(), stamp);
  EXPECT_TRUE(window->findChild<QLabel*>("balance.second")->text().contains("bananas"));
  // A block from the clipboard, one step of undo; filled to the right.
  QApplication::clipboard()->setText("688.0\t687.5\n");
  grid().setFocus();
  grid().setCurrentIndex(at("Top tank level", 4));
  QTest::keyClick(&grid(), Qt::Key_V, Qt::ControlModifier);
  rest();
  EXPECT_EQ(cell("Top tank level", 4).text, "688");
  EXPECT_EQ(cell("Top tank level", 5).text, "687.5");
  doc().undo();
  rest();
  EXPECT_FALSE(cell("Top tank level", 4).own);
  EXPECT_FALSE(cell("Top tank level", 5).own);
  doc().redo();
  rest();
  grid().setFocus();
  grid().setCurrentIndex(at("Top tank level", 4));
  grid().selectionModel()->select(QItemSelection(at("Top tank level", 4), at("Top tank level", 5)),
                                  QItemSelectionModel::ClearAndSelect);
  QTest::keyClick(&grid(), Qt::Key_R, Qt::ControlModifier);
  rest();
  EXPECT_EQ(cell("Top tank level", 5).text, "688");
  QTest::keyClick(&grid(), Qt::Key_C, Qt::ControlModifier);
  EXPECT_EQ(QApplication::clipboard()->text(), "688\t688");
  // Cases change places; the drawing stays the first.
  doc().setCase(doc().model().cases.byName("Refill")->id);
  for (QAction* a : window->actions())
    if (a->objectName() == "case.left") a->trigger();
  rest();
  EXPECT_EQ(doc().model().cases.others.front().name, "Refill");
  EXPECT_EQ(doc().caseNow().name, "Refill");
  doc().undo();
  rest();
  // Rows of several elements are typed for all of them.
  type(at("Gun 1 … 4 open", 4), "no");
  EXPECT_FALSE(*doc().network().at(doc().network().byName("Gun 3")).values.get<bool>("open"));
}

TEST_F(CasesByHand, whatStaysStaysWhileTheRestScrolls) {
  openSample("kestrel-fell.lconduit");
  window->showDeskOf<CasesDesk>();
  rest();
  for (int i = 0; i < 12; ++i) ASSERT_TRUE(doc().takeModel(addCase(doc().model(), {}, drawingCase)));
  rest();
  const QRect words = grid().frozen().visualRect(at("B-1 speed", 0)),
              drawing = grid().frozen().visualRect(at("B-1 speed", 1));
  grid().horizontalScrollBar()->setValue(grid().horizontalScrollBar()->maximum());
  EXPECT_GT(grid().horizontalScrollBar()->value(), 400);
  EXPECT_EQ(grid().frozen().visualRect(at("B-1 speed", 0)), words);
  EXPECT_EQ(grid().frozen().visualRect(at("B-1 speed", 1)), drawing);
  EXPECT_GE(grid().frozen().width(), drawing.right());
  EXPECT_TRUE(grid().frozen().isAncestorOf(grid().childAt(QPoint(20, 40))))
      << "its heading lies over those that scroll";
  // As rows and back.
  desk().setAsRows(true);
  EXPECT_EQ(model().rowCount(), 17 + 1);
  EXPECT_EQ(model().caseAt(model().index(2, 1)), doc().model().cases.others[1].id);
  desk().setAsRows(false);
  EXPECT_EQ(model().columnCount(), 17 + 2);
}

TEST_F(CasesByHand, theNetworkDeskShowsTheCurrentCaseAndSaysSo) {
  openSample("kestrel-fell.lconduit");
  const Case& lower = doc().model().cases.others.front();
  doc().setCase(lower.id);
  rest();
  doc().select({doc().network().byName("Gun 5")});
  settle();
  auto* line = net().card().findChild<QLabel*>("card.case");
  ASSERT_TRUE(line);
  EXPECT_TRUE(line->text().contains("in Lower flank only")) << line->text().toStdString();
  auto* differs = net().card().findChild<QLabel*>("differs.open");
  ASSERT_TRUE(differs);
  EXPECT_TRUE(differs->text().contains("yes in Cold night")) << differs->text().toStdString();
  // Typed here it is of this case; one click makes it for all.
  doc().select({doc().network().byName("Top tank")});
  settle();
  auto* level = net().card().findChild<QLineEdit*>("given.level");
  level->setFocus();
  level->selectAll();
  QTest::keyClicks(level, "690 m");
  QTest::keyClick(level, Qt::Key_Return);
  rest();
  EXPECT_EQ(doc().model().drawn.at(doc().selected()).given("level")->typed, "692.4 m");
  EXPECT_EQ(doc().network().at(doc().selected()).given("level")->typed, "690 m");
  EXPECT_EQ(doc().history().undoName(), "Set level of Top tank to 690 m in Lower flank");
  auto* was = net().card().findChild<QLabel*>("differs.level");
  ASSERT_TRUE(was);
  emit was->linkActivated("all");
  rest();
  EXPECT_EQ(doc().model().drawn.at(doc().selected()).given("level")->typed, "690 m");
  EXPECT_FALSE(net().card().findChild<QLabel*>("differs.level"));
  doc().undo();
  rest();
  was = net().card().findChild<QLabel*>("differs.level");
  ASSERT_TRUE(was);
  emit was->linkActivated("inherit");
  rest();
  EXPECT_EQ(doc().network().at(doc().selected()).given("level")->typed, "692.4 m");
  // Drawn with a case current it is drawn for all.
  net().plan().setFocus();
  const std::size_t count = doc().model().drawn.count();
  ASSERT_TRUE(doc().take(removeAll(doc().network(), std::vector{doc().network().byName("Gun 11")})));
  rest();
  EXPECT_LT(doc().model().drawn.count(), count);
  EXPECT_EQ(doc().currentCase(), lower.id);
  // A finding of another case leads there.
  net().showDrawer(0);
  EXPECT_TRUE(QTest::qWaitFor([&] { return net().findChild<QLabel*>("findings.case.0") != nullptr; }, 10000));
  auto* heading = net().findChild<QLabel*>("findings.case.0");
  ASSERT_TRUE(heading);
  EXPECT_EQ(heading->text(), "Cold night");
  // Every limit in force stands next to them, the worst over all cases first; a click goes to it.
  QTest::mouseClick(net().findChild<QToolButton*>("limits.tab"), Qt::LeftButton);
  rest();
  const CellRows& limits = net().findingsPage().limits();
  QTRY_VERIFY(limits.rowCount() > 6);
  int nozzles = -1;
  for (int row = 0; row < limits.rowCount(); ++row)
    if (limits.at(row, 0)->text.startsWith(QString::fromUtf8("Pressure ≥"))) nozzles = row;
  ASSERT_GE(nozzles, 0);
  EXPECT_EQ(limits.at(nozzles, 1)->text, "own");
  EXPECT_EQ(limits.at(nozzles, 2)->text, "10 nozzles") << "Gun 11 was removed";
  auto* table = net().findChild<CellTable*>("limits.table");
  QTest::mouseClick(table->viewport(), Qt::LeftButton, {},
                    table->visualRect(limits.index(nozzles, 0)).center());
  rest();
  EXPECT_EQ(doc().network().at(doc().selected()).name, limits.at(nozzles, 4)->text.toStdString());
  EXPECT_EQ(doc().model().cases.find(doc().currentCase())->name, limits.at(nozzles, 5)->text.toStdString());
  QTest::mouseClick(net().findChild<QToolButton*>("findings.tab"), Qt::LeftButton);
  EXPECT_TRUE(net().findChild<QLabel*>("findings.case.0"));
}

TEST_F(CasesByHand, casesAreSavedRecoveredAndComeBack) {
  openSmall();
  desk().newCase();
  rest();
  add("S pressure 30 m");
  const QString file = dir.filePath("saved.lconduit");
  ASSERT_TRUE(doc().save(file));
  const auto again = loadModel(file.toStdString(), &shippedStock());
  ASSERT_TRUE(again);
  EXPECT_EQ(writeModel(*again), writeModel(doc().model()));
  add("S pressure 29 m");
  doc().keepRecovery();
  const QString left = dir.filePath("left-0.lconduit");
  ASSERT_TRUE(saveModel(doc().model(), left.toStdString()));
  ASSERT_TRUE(doc().recover(left));
  settle();
  ASSERT_EQ(doc().model().cases.count(), 2u);
  const Network case2 = networkOf(doc().model(), doc().model().cases.others.front().id);
  EXPECT_EQ(case2.at(case2.byName("S")).given("pressure")->typed, "29 m");
  doc().dropRecovery();
}

TEST_F(CasesByHand, theCardOfACaseTakesItsHoursAndMakesItTheDrawing) {
  openSmall();
  desk().newCase();
  rest();
  add("S pressure 38 m");
  auto* hours = desk().findChild<QLineEdit*>("case.hours");
  hours->setFocus();
  QTest::keyClicks(hours, "760");
  QTest::keyClick(hours, Qt::Key_Return);
  EXPECT_EQ(doc().caseNow().about.get<Given>("hours in a year")->value, 760 * 3600.0) << "bare hours";
  QTest::mouseClick(desk().findChild<QCheckBox*>("case.counts"), Qt::LeftButton);
  EXPECT_FALSE(flagOf(doc().caseNow(), cases::counts));
  emit desk().findChild<QLabel*>("case.links")->linkActivated("drawing");
  rest();
  EXPECT_EQ(doc().model().drawn.at(doc().network().byName("S")).given("pressure")->typed, "38 m");
  EXPECT_TRUE(doc().caseNow().differs.empty());
  emit desk().findChild<QLabel*>("case.links")->linkActivated("remove");
  rest();
  EXPECT_EQ(doc().model().cases.count(), 1u);
  EXPECT_FALSE(window->findChild<QToolButton*>("case")->isVisible());
}

TEST_F(CasesByHand, aNumberOnACardIsWatched) {
  openSmall();
  window->showDeskOf<NetworkDesk>();
  doc().select({doc().network().byName("V")});
  settle();
  auto* watch = net().card().findChild<QAction*>("watch.flow");
  ASSERT_TRUE(watch);
  watch->trigger();
  rest();
  ASSERT_EQ(doc().model().of<WatchedResults>().all.size(), 1u);
  EXPECT_EQ(doc().model().of<WatchedResults>().all.front().outcome, "flow");
}

TEST_F(CasesByHand, aSweepIsRunReadOffGivenBackAndUndone) {
  openSmall();
  add("V flow");
  auto* what = desk().findChild<QLineEdit*>("sweep.vary");
  auto* over = desk().findChild<QLineEdit*>("sweep.over");
  what->setFocus();
  QTest::keyClicks(what, "V opening");
  over->setFocus();
  QTest::keyClicks(over, "20 % to 100 % in 8");
  QTest::keyClick(over, Qt::Key_Return);
  SweepPane& sweep = desk().sweep();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !sweep.running() && sweep.result(); }, 10000));
  ASSERT_EQ(sweep.result()->points.size(), 9u);
  // 60·0.5·√(9.80665·30/100) m³/h at half open.
  EXPECT_NEAR(sweep.result()->points[3].si[0], 60 * 0.5 * std::sqrt(9.80665 * 30 / 100) / 3600, 1e-9);
  EXPECT_EQ(doc().model().of<SweepSetup>().vary, "V opening") << "the set-up is of the model";
  ASSERT_EQ(sweep.plot().data().curves.size(), 1u);
  QTest::qWait(50);
  // Pointed at it is read off; clicked it stays, and its link gives it to the case.
  auto* plot = sweep.plot().findChild<QWidget*>("plot");
  QTest::mouseMove(plot, plot->mapFrom(&sweep.plot(), sweep.plot().at(50)));
  QTest::mouseClick(plot, Qt::LeftButton, {}, plot->mapFrom(&sweep.plot(), sweep.plot().at(50)));
  auto* read = desk().findChild<QLabel*>("sweep.read");
  EXPECT_TRUE(read->text().contains("50 %")) << read->text().toStdString();
  EXPECT_TRUE(read->text().contains("14.3")) << "L/s: " << read->text().toStdString();
  const auto stamp = doc().history().stamp();
  emit read->linkActivated("give");
  rest();
  EXPECT_NE(doc().history().stamp(), stamp);
  EXPECT_EQ(doc().model().drawn.at(doc().network().byName("V")).given("opening")->typed, "50 %");
  doc().undo();
  rest();
  EXPECT_EQ(doc().history().stamp(), stamp);
  // Saved as a picture and as one of lines.
  for (const char* name : {"sweep.png", "sweep.svg"}) {
    const QString file = dir.filePath(name);
    EXPECT_TRUE(sweep.plot().save(file));
    EXPECT_GT(QFileInfo(file).size(), 1000);
  }
  EXPECT_FALSE(sweep.plot().save("/no/such/folder/sweep.png"));
  plot->findChild<QAction*>("plot.copy")->trigger();
  EXPECT_GT(QApplication::clipboard()->pixmap().width(), 300);
  EXPECT_TRUE(desk().writeGrid(dir.filePath("grid.xlsx")));
  EXPECT_GT(QFileInfo(dir.filePath("grid.xlsx")).size(), 3000);
  // A second given: a curve for each of its values. What cannot be read is said and runs nothing.
  auto* too = desk().findChild<QLineEdit*>("sweep.vary2");
  auto* overToo = desk().findChild<QLineEdit*>("sweep.over2");
  too->setText("S pressure");
  overToo->setText("38 m, 50 m");
  sweep.run();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !sweep.running(); }, 10000));
  ASSERT_EQ(sweep.result()->points.size(), 18u);
  EXPECT_EQ(sweep.plot().data().curves.size(), 2u);
  overToo->setText("38 bananas");
  sweep.run();
  EXPECT_FALSE(sweep.running());
  EXPECT_TRUE(window->findChild<QLabel*>("balance.second")->text().contains("bananas"));
  // A table of rows, and one that is none.
  const QString table = dir.filePath("rows.csv");
  std::ofstream(table.toStdString()) << "V opening [%],S pressure\n50,38 m\n100,50 m\n";
  sweep.runRows(table);
  ASSERT_TRUE(QTest::qWaitFor([&] { return !sweep.running(); }, 10000));
  ASSERT_EQ(sweep.result()->points.size(), 2u);
  EXPECT_NEAR(sweep.result()->points[1].si[0], 60 * std::sqrt(9.80665 * 30 / 100) / 3600, 1e-9);
  sweep.runRows(dir.filePath("none.csv"));
  EXPECT_FALSE(sweep.running());
  QTest::mouseClick(desk().findChild<QToolButton*>("sweep.fold"), Qt::LeftButton);
  EXPECT_FALSE(plot->isVisible());
}

// Fifty cases by two hundred rows: all there, the ends reached by keys, and what a frame takes said.
TEST_F(CasesByHand, fiftyCasesOfTwoHundredRowsScroll) {
  Model big;
  Draft draft(big.drawn);
  Id last = draft.addPoint("N-0", {0, 0});
  std::vector<Id> pipes;
  for (int i = 1; i <= 200; ++i) {
    const Id next = draft.addPoint("N-" + std::to_string(i), {20.0 * i, 0});
    pipes.push_back(draft.add(*findPart("pipe"), "L-" + std::to_string(i), {last, next}));
    last = next;
  }
  big.drawn = std::move(draft).finish();
  const std::string_view length = findField(*findPart("pipe"), "length")->key;
  for (CaseId c = 1; c < 50; ++c) {
    Case one{.id = c, .name = "Case " + std::to_string(c)};
    for (std::size_t i = 0; i < pipes.size(); ++i)
      if ((i + c) % 3 != 0) {
        const double metres = 20 + static_cast<double>((i * 7 + i * i * c) % 97);
        one.differs.set(pipes[i], length, Given{metres, Basis::direct, std::to_string(metres) + " m"});
      }
    big.cases.others.push_back(std::move(one));
  }
  const QString file = dir.filePath("fifty.lconduit");
  ASSERT_TRUE(saveModel(big, file.toStdString()));
  ASSERT_TRUE(window->openFile(file));
  window->showDeskOf<CasesDesk>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return doc().allCurrent(); }, 20000));
  EXPECT_TRUE(QTest::qWaitFor([&] { return model().columnCount() == 50 + 2; }, 10000));
  EXPECT_EQ(model().rowCount(), 200 + 1 + 2) << "lengths, hours, two headings";
  grid().setFocus();
  grid().setCurrentIndex(model().index(1, 1));
  QElapsedTimer clock;
  clock.start();
  int frames = 0;
  for (int y = 0; y <= grid().verticalScrollBar()->maximum(); y += 40, ++frames) {
    grid().verticalScrollBar()->setValue(y);
    grid().horizontalScrollBar()->setValue(y);
    grid().viewport()->repaint();
    grid().frozen().viewport()->repaint();
  }
  std::printf("  50 cases of 200 rows: %.2f ms a frame of scrolling\n",
              static_cast<double>(clock.elapsed()) / frames);
  QTest::keyClick(&grid(), Qt::Key_End, Qt::ControlModifier);
  EXPECT_GT(grid().currentIndex().column(), 49);
}

}  // namespace conduit::desktop
