// The Pumps desk by mouse and keys: what is asked, read off, tried, taken, written down.
#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QTableWidget>
#include <QTemporaryDir>
#include <cmath>
#include <fstream>

#include "cases/case_edits.h"
#include "desks/cases/cases_desk.h"
#include "desks/cases/grid_view.h"
#include "desks/pumps/candidates_view.h"
#include "desks/pumps/places.h"
#include "desks/pumps/pump_card.h"
#include "desks/pumps/pumps_desk.h"
#include "drawer/ledger.h"
#include "model/pump_request.h"
#include "network/edits.h"
#include "plot/stack.h"
#include "pump/pump_edits.h"
#include "quantity/format.h"
#include "window_fixture.h"

namespace conduit::desktop {
namespace {

struct PumpsTest : WindowTest {
  PumpsDesk& desk() { return window->deskOf<PumpsDesk>(); }
  void study() {
    settle();
    ASSERT_TRUE(QTest::qWaitFor([&] { return desk().settled(); }, 20000)) << "the study did not end";
    QApplication::processEvents();
  }
  void openPumps(const char* sample = "kestrel-fell.lconduit") {
    openSample(sample);
    QTest::keyClick(window.get(), Qt::Key_2, Qt::AltModifier);
    ASSERT_EQ(&window->desk(), &desk());
    study();
  }
  void click(const char* place) {
    auto* row = the<QWidget>(place);
    ASSERT_NE(row, nullptr);
    QTest::mouseClick(row, Qt::LeftButton);
  }
  Id id(const char* name) { return doc().network().byName(name); }
  double flowOf(const char* name) { return *doc().solved()->solution.branch(id(name), 0).flow_m3s; }
};

TEST_F(PumpsTest, showsEveryPumpWithItsDutyAndTheOneThatIsLookedAt) {
  openPumps();
  EXPECT_TRUE(the<QWidget>("place.P-1")->accessibleName().contains("20.1 L/s"));
  EXPECT_TRUE(the<QWidget>("place.P-1")->accessibleName().contains("limit is not met"));
  EXPECT_TRUE(the<QWidget>("place.B-2")->accessibleName().contains("off"));
  click("place.B-1");
  study();
  EXPECT_EQ(desk().places().place(), id("B-1"));
  EXPECT_TRUE(the<QLabel>("pump.name")->text().contains("downstream of P-1, P-2"));
  // By keys: the row has the keyboard, space chooses.
  the<QWidget>("place.P-2")->setFocus();
  QTest::keyClick(QApplication::focusWidget(), Qt::Key_Space);
  study();
  EXPECT_EQ(desk().places().place(), id("P-2"));
  EXPECT_TRUE(the<QLabel>("pump.suction")->text().contains("NPSH available"));
  // The selection of the drawing comes along.
  doc().select({id("B-1")});
  study();
  EXPECT_EQ(desk().places().place(), id("B-1"));
  // Several together: one curve, drawn against one that matches it.
  click("place.P-1.together");
  study();
  EXPECT_EQ(desk().result()->group.members.size(), 2u);
  EXPECT_FALSE(desk().result()->groupCurve.empty());
  EXPECT_EQ(desk().figure().data().panes.size(), 1u) << "head alone: NPSH and efficiency are of each";
}

// One that the other holds shut is offered with it: the kink where it would open lies at 45 m, its shut-off.
TEST_F(PumpsTest, aPumpHeldShutIsLookedAtWithTheOther) {
  openPumps();
  ASSERT_TRUE(window->openFile(QString(SOURCE_DIR) + "/tests/problems/pump_dead_headed.lconduit"));
  study();
  click("place.big.together");
  study();
  ASSERT_EQ(desk().result()->group.members.size(), 2u);
  const TracedCurve& curve = desk().result()->groupCurve;
  ASSERT_EQ(curve.breaks.size(), 1u);
  EXPECT_NEAR(curve.breaks[0].before_m, 45, 0.02);
  EXPECT_TRUE(the<QLabel>("pump.story")->text().contains("small shut, then open"));
}

TEST_F(PumpsTest, whatIsAskedForChangesTheCandidates) {
  openPumps();
  const auto before = desk().result()->selection->can.size();
  EXPECT_GE(before, 3u);
  type("asked.driver at most", "36 kW");
  study();
  EXPECT_LT(desk().result()->selection->can.size(), before);
  for (const Candidate& c : desk().result()->selection->can) EXPECT_LE(*c.now().duty.shaft_w, 36e3);
  EXPECT_TRUE(the<QLabel>("pumps.foot")->text().contains("power above 36"));
  // Nonsense is refused beside the field and changes nothing.
  type("asked.flow", "fast");
  EXPECT_TRUE(the<QLineEdit>("asked.flow")->property("refused").toBool());
  EXPECT_FALSE(the<QLineEdit>("asked.flow")->toolTip().isEmpty());
  doc().undo();
  study();
  EXPECT_EQ(desk().result()->selection->can.size(), before);
  // Weights by keys.
  auto* weight = the<QWidget>("weight.weight of efficiency");
  weight->setFocus();
  QTest::keyClick(weight, Qt::Key_End);
  study();
  EXPECT_DOUBLE_EQ(
      *askedOf(requestAt(doc().model().of<PumpRequests>().all, id("P-1"))->about, request::efficiency), 1.0);
  // Kept in the file.
  QTemporaryDir folder;
  ASSERT_TRUE(doc().save(folder.filePath("kept.lconduit")));
  ASSERT_TRUE(window->openFile(folder.filePath("kept.lconduit")));
  study();
  EXPECT_DOUBLE_EQ(
      *askedOf(requestAt(doc().model().of<PumpRequests>().all, id("P-1"))->about, request::efficiency), 1.0);
}

TEST_F(PumpsTest, aReadingIsSolvedAndGivenBackAsACase) {
  openPumps();
  click("place.B-1");
  study();
  type("pumps.readFlow", "38 L/s");
  QApplication::processEvents();
  const QString head = the<QLineEdit>("pumps.readHead")->text();
  EXPECT_FALSE(head.isEmpty());
  const std::size_t cases = doc().model().cases.count();
  emit the<QLabel>("pumps.giveBack")->linkActivated("give");
  QApplication::processEvents();
  study();
  EXPECT_EQ(doc().model().cases.count(), cases + 1);
  EXPECT_NE(doc().currentCase(), drawingCase);
  EXPECT_NEAR(flowOf("B-1"), 0.038, 1e-6 * 0.038);
  // The head the other way: back in the drawing, the same head reads the same flow.
  doc().setCase(drawingCase);
  study();
  type("pumps.readHead", head);
  EXPECT_NEAR(the<QLineEdit>("pumps.readFlow")->text().section(' ', 0, 0).toDouble(), 38.0, 0.05);
  type("pumps.readHead", "9000 m");
  EXPECT_TRUE(the<QLabel>("pumps.readWords")->text().contains("does not reach this head"));
  EXPECT_TRUE(the<QLabel>("pumps.giveBack")->text().isEmpty());
}

TEST_F(PumpsTest, theDutyIsDraggedAlongTheSystemCurve) {
  openPumps();
  Stack& figure = desk().figure();
  const StackMark duty = figure.data().panes[0].marks.back();
  ASSERT_EQ(duty.id, "duty");
  auto* plot = figure.findChild<QWidget*>("stack");
  const QPoint from = figure.at(0, duty.x, duty.y), to = from - QPoint(70, -10);
  QTest::mouseMove(plot, from);
  QTest::mousePress(plot, Qt::LeftButton, {}, from);
  QMouseEvent move(QEvent::MouseMove, to, plot->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
  QApplication::sendEvent(plot, &move);
  QTest::mouseRelease(plot, Qt::LeftButton, {}, to);
  QApplication::processEvents();
  const double read = the<QLineEdit>("pumps.readFlow")->text().section(' ', 0, 0).toDouble();
  EXPECT_LT(read, duty.x - 1);
  EXPECT_NEAR(read, figure.place(0, to).x(), 0.02);
  // Pointing reads everything off.
  const QPoint over = figure.at(0, 15, 100);
  QMouseEvent point(QEvent::MouseMove, over, plot->mapToGlobal(over), Qt::NoButton, Qt::NoButton, {});
  QApplication::sendEvent(plot, &point);
  const QString words = figure.findChild<QLabel*>("stack.words")->text();
  for (const char* part : {"15", "pump head", "required", "NPSH required", "available", "kW"})
    EXPECT_TRUE(words.contains(part)) << part << " in " << words.toStdString();
  // The wheel goes nearer, a double click shows all again.
  QWheelEvent wheel(over, plot->mapToGlobal(over), {}, {0, 240}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
  const int before = figure.at(0, 20, 0).x() - figure.at(0, 10, 0).x();
  QApplication::sendEvent(plot, &wheel);
  EXPECT_GT(figure.at(0, 20, 0).x() - figure.at(0, 10, 0).x(), before);
  QTest::mouseDClick(plot, Qt::LeftButton, {}, over);
  EXPECT_EQ(figure.at(0, 20, 0).x() - figure.at(0, 10, 0).x(), before);
}

TEST_F(PumpsTest, aCandidateIsLaidOverTriedAndTaken) {
  openPumps();
  CandidatesView& table = desk().candidates();
  table.setFocus();
  table.selectRow(0);
  QApplication::processEvents();
  const Candidate first = desk().result()->selection->can.front();
  const auto& curves = desk().figure().data().panes[0].curves;
  EXPECT_TRUE(std::any_of(curves.begin(), curves.end(),
                          [&](const StackCurve& c) { return c.name == QString::fromStdString(first.item); }));
  EXPECT_TRUE(the<QLabel>("pump.units")->text().contains("pumps running"));
  QTest::keyClick(&table, Qt::Key_C, Qt::ControlModifier);
  EXPECT_TRUE(QApplication::clipboard()->text().contains(QString::fromStdString(first.item)));
  // Enter tries it: a case of its own, in which it runs at the duty the table says.
  const double drawn = flowOf("P-1");
  QTest::keyClick(&table, Qt::Key_Return);
  study();
  EXPECT_EQ(doc().caseNow().name, first.item + " as P-1");
  EXPECT_NEAR(flowOf("P-1"), *first.now().duty.flow_m3s, 1e-9);
  doc().setCase(drawingCase);
  study();
  EXPECT_NEAR(flowOf("P-1"), drawn, 1e-9) << "the drawing is as it was";
  // The link at the right takes it: one step of undo.
  const QRect box = table.visualRect(table.model()->index(0, CandidatesModel::act));
  QTest::mouseClick(table.viewport(), Qt::LeftButton, {}, QPoint(box.right() - 12, box.center().y()));
  study();
  EXPECT_EQ(*doc().network().at(id("P-1")).text(stockItemKey),
            desk().result()->selection->can.front().inPlace ? desk().result()->selection->can.front().item
                                                            : first.item);
  EXPECT_NEAR(flowOf("P-1"), *first.now().duty.flow_m3s, 1e-9);
  doc().undo();
  study();
  EXPECT_EQ(doc().network().at(id("P-1")).text(stockItemKey), nullptr);
}

TEST_F(PumpsTest, othersCasesCurvesAreTickedAndSpeedsHeld) {
  openPumps();
  EXPECT_EQ(desk().result()->curves.size(), 1u);
  auto* tick = the<QWidget>("pumps.case.2");
  QTest::mouseClick(tick, Qt::LeftButton, {}, QPoint(8, tick->height() / 2));
  study();
  EXPECT_EQ(desk().result()->curves.size(), 2u);
  click("place.B-1");
  study();
  type("pump.hold", "25 bar at N-17");
  study();
  ASSERT_EQ(desk().result()->speeds.size(), doc().model().cases.count());
  EXPECT_TRUE(the<QLabel>("pump.speeds")->text().contains("rpm"));
  type("pump.hold", "tomorrow");
  EXPECT_TRUE(the<QLineEdit>("pump.hold")->property("refused").toBool());
}

TEST_F(PumpsTest, aRemedyThatWasTriedIsAppliedByItsLink) {
  openPumps();
  ASSERT_FALSE(desk().result()->remedies.empty());
  const double margin = desk().result()->remedies.front().margin_m;
  emit the<QLabel>("pump.mend")->linkActivated("mend:0");
  QApplication::processEvents();
  study();
  ASSERT_TRUE(desk().result()->budget && desk().result()->budget->margin_m);
  EXPECT_NEAR(*desk().result()->budget->margin_m, margin, 1e-6);
  EXPECT_FALSE(the<QLabel>("pump.mend")->isVisibleTo(window.get()));
}

TEST_F(PumpsTest, aSupplyIsLookedAtAsIfAPumpStoodThere) {
  openPumps();
  QTest::mouseClick(the<QWidget>("pumps.fold"), Qt::LeftButton);
  click("place.Top tank");
  study();
  EXPECT_TRUE(desk().result()->made);
  EXPECT_FALSE(desk().result()->curves.front().curve.empty());
  EXPECT_TRUE(desk().result()->budget == std::nullopt);
}

TEST_F(PumpsTest, draughtsThatGrowTogetherAreReadAndGivenBack) {
  const QString text =
      R"({"format":"level-conduit","version":2,"points":[{"name":"W","height":"20 m"},{"name":"S","height":"25 m"},{"name":"A","height":"30 m","outflow":"12 L/s"}],
    "elements":[{"kind":"fixed pressure","name":"Works","point":"W","pressure":"5 bar"},{"kind":"fixed pressure","name":"Spring","point":"S","pressure":"5 bar"},
    {"kind":"pipe","name":"L1","from":"W","to":"A","length":"400 m","bore":"125 mm","roughness":"0.1 mm"},{"kind":"pipe","name":"L2","from":"S","to":"A","length":"300 m","bore":"125 mm","roughness":"0.1 mm"}]})";
  QTemporaryDir folder;
  QFile file(folder.filePath("town.lconduit"));
  ASSERT_TRUE(file.open(QIODevice::WriteOnly));
  file.write(text.toUtf8());
  file.close();
  ASSERT_TRUE(window->openFile(folder.filePath("town.lconduit")));
  window->showDeskOf<PumpsDesk>();
  study();
  click("place.Works");
  study();
  auto* mode = the<QComboBox>("pumps.mode");
  mode->setFocus();
  QTest::keyClick(mode, Qt::Key_Down);
  type("pumps.share", "50 %");
  type("pumps.least", "2 bar");
  study();
  ASSERT_TRUE(desk().result()->shared.has_value()) << desk().result()->problem;
  type("pumps.readFlow", "9 L/s");
  EXPECT_TRUE(the<QLabel>("pumps.readWords")->text().contains("A governs"))
      << the<QLabel>("pumps.readWords")->text().toStdString();
  emit the<QLabel>("pumps.giveBack")->linkActivated("give");
  QApplication::processEvents();
  study();
  EXPECT_NEAR(flowOf("L1"), 0.009, 1e-6 * 0.009);
  EXPECT_NEAR(flowOf("L2"), 0.009, 1e-6 * 0.009);
  EXPECT_NEAR(doc().network().at(id("A")).given("outflow")->value, 0.018, 1e-12);
  // A candidate there is proposed beside the drawing or taken as a new pump.
  doc().setCase(drawingCase);
  mode->setFocus();
  QTest::keyClick(mode, Qt::Key_Up);
  type("asked.flow", "8 L/s");
  type("asked.flow over by at most", "200 %");
  study();
  ASSERT_FALSE(desk().result()->selection->can.empty()) << desk().result()->selection->problem;
  CandidatesView& table = desk().candidates();
  table.setFocus();
  table.selectRow(0);
  const std::size_t before = doc().network().count();
  QTest::keyClick(&table, Qt::Key_Return);
  QApplication::processEvents();
  ASSERT_TRUE(desk().proposed().has_value());
  EXPECT_EQ(doc().network().count(), before);
  EXPECT_GT(desk().proposed()->drawn.count(), before);
  QTest::keyClick(&table, Qt::Key_Return, Qt::ControlModifier);
  study();
  EXPECT_EQ(doc().network().count(), desk().proposed()->drawn.count());
  EXPECT_EQ(doc().network().at(desk().places().place()).part->key, "pump");
  doc().undo();
  study();
  EXPECT_EQ(doc().network().count(), before);
}

TEST_F(PumpsTest, sheetsFiguresAndTablesAreWritten) {
  openPumps();
  QTemporaryDir folder;
  for (const char* name : {"duty.html", "duty.pdf"})
    EXPECT_TRUE(desk().writeSheet(folder.filePath(name), false)) << name;
  EXPECT_TRUE(desk().writeSheet(folder.filePath("candidates.html"), true));
  QFile sheet(folder.filePath("duty.html"));
  ASSERT_TRUE(sheet.open(QIODevice::ReadOnly));
  const QString html = QString::fromUtf8(sheet.readAll());
  EXPECT_TRUE(html.contains("Pump P-1") && html.contains("NPSH available") && html.contains("Lower flank"));
  QFile pdf(folder.filePath("duty.pdf"));
  ASSERT_TRUE(pdf.open(QIODevice::ReadOnly));
  EXPECT_EQ(pdf.read(5), QByteArray("%PDF-"));
  for (const char* name : {"figure.svg", "figure.png"}) {
    EXPECT_TRUE(desk().figure().save(folder.filePath(name)));
    EXPECT_GT(QFile(folder.filePath(name)).size(), 2000);
  }
  EXPECT_FALSE(desk().writeSheet("/no/such/folder/duty.html", false));
  const auto table = desk().candidates().rows().table();
  EXPECT_EQ(table.size(), desk().result()->selection->can.size() + 1);
}

TEST_F(PumpsTest, aCurveIsPastedFromASpreadsheet) {
  openSample("kestrel-fell.lconduit");
  doc().select({id("P-1")});
  settle();
  QTest::mouseClick(the<QWidget>("fold.curve"), Qt::LeftButton);
  QApplication::processEvents();
  QApplication::clipboard()->setText(
      "Flow [m3/h]\tHead [m]\tPower [kW]\n0\t150\t12\n50\t140\t27\n90\t110\t38\n");
  the<QTableWidget>("given.curve")->setFocus();
  the<QAction>("paste.curve")->trigger();
  QApplication::processEvents();
  settle();
  const Rows* rows = doc().network().at(id("P-1")).rows("curve");
  ASSERT_NE(rows, nullptr);
  ASSERT_EQ(rows->size(), 3u);
  EXPECT_NEAR((*rows)[1][0]->value, 50 / 3600.0, 1e-12);
  EXPECT_NEAR((*rows)[2][4]->value, 38e3, 1e-6);
  QApplication::clipboard()->setText("1\tfast\n2\tslow\n");
  the<QAction>("paste.curve")->trigger();
  QApplication::processEvents();
  EXPECT_EQ(doc().network().at(id("P-1")).rows("curve")->size(), 3u) << "nothing half applied";
  doc().undo();
  EXPECT_EQ(doc().network().at(id("P-1")).rows("curve")->size(), 6u);
}

TEST_F(PumpsTest, nothingIsStaleWhenTheModelChangesUnderIt) {
  openPumps();
  // The pump that is looked at is taken away; the next is looked at.
  const Id gone[] = {id("P-1")};
  doc().take(removeAll(doc().network(), gone));
  study();
  EXPECT_NE(desk().places().place(), gone[0]);
  doc().undo();
  study();
  doc().startNew();
  EXPECT_TRUE(QTest::qWaitFor([&] { return desk().candidates().rows().rowCount() == 0; }, 10000));
  EXPECT_EQ(desk().places().place(), noId);
  EXPECT_FALSE(the<QLabel>("pump.story")->text().isEmpty());
  EXPECT_EQ(desk().candidates().rows().rowCount(), 0);
  // Two edits at once, then another model: the last is what stands.
  openSample("kestrel-fell.lconduit");
  type("asked.flow", "19 L/s");
  type("asked.flow", "18 L/s");
  study();
  EXPECT_NEAR(desk().result()->selection->flow_m3s, 0.018, 1e-12);
}

TEST_F(PumpsTest, anyPointIsFoundByTypingAndWhatIsSelectedIsAmongThePlaces) {
  openPumps();
  type("pumps.find", "n-24");
  study();
  EXPECT_EQ(desk().places().place(), id("N-24")) << "whatever its capitals";
  EXPECT_TRUE(the<QWidget>("place.N-24")->isVisible());
  EXPECT_TRUE(the<QLineEdit>("pumps.find")->text().isEmpty());
  type("pumps.find", "Moon");
  EXPECT_TRUE(the<QLineEdit>("pumps.find")->property("refused").toBool());
  EXPECT_EQ(desk().places().place(), id("N-24")) << "nothing changed";
  // A line is no place for it.
  type("pumps.find", "L-20");
  EXPECT_TRUE(the<QLineEdit>("pumps.find")->property("refused").toBool());
  // Selected after the desk was shown.
  doc().select({id("N-9")});
  study();
  EXPECT_EQ(desk().places().place(), id("N-9"));
  EXPECT_TRUE(the<QWidget>("place.N-9")->isVisible());
  // Asked for, it stays in the list while another is looked at.
  type("asked.flow", "12 L/s");
  study();
  click("place.P-1");
  doc().select({});
  study();
  QTest::mouseClick(the<QWidget>("pumps.fold"), Qt::LeftButton);
  EXPECT_TRUE(the<QWidget>("place.N-9")->isVisible());
}

TEST_F(PumpsTest, ofANotionalSupplyTheHeadIsReadAlsoAsALevel) {
  openPumps();
  QTest::mouseClick(the<QWidget>("pumps.fold"), Qt::LeftButton);
  click("place.Top tank");
  study();
  type("pumps.readFlow", "5 L/s");
  QApplication::processEvents();
  const auto level = doc().network().at(id("Top tank")).given("level")->value;
  ASSERT_TRUE(desk().result()->made);
  const QString words = the<QLabel>("pumps.readWords")->text();
  const auto read = readAtFlow(desk().result()->network, doc().stock(), desk().result()->base,
                               desk().result()->group, 0.005);
  ASSERT_TRUE(read.has_value());
  EXPECT_TRUE(words.contains(
      "level " + QString::fromStdString(withUnit(level + read->head_m, Measure::height, doc().units()))))
      << words.toStdString();
}

TEST_F(PumpsTest, whereThereIsNoCurveTheFigureSaysWhyAndWhatToDo) {
  const auto note = [&] { return desk().figure().findChild<QLabel*>("stack.note"); };
  doc().startNew();
  QTest::keyClick(window.get(), Qt::Key_2, Qt::AltModifier);
  EXPECT_TRUE(QTest::qWaitFor([&] { return note()->isVisible(); }, 10000));
  EXPECT_TRUE(note()->text().contains("Choose a pump"));
  // A draw-off behind the pump that nothing else can feed: no flow of the pump balances but one.
  QTemporaryDir folder;
  const QString file = folder.filePath("dead.lconduit");
  std::ofstream(file.toStdString())
      << R"({"format":"level-conduit","version":2,"points":[{"name":"A","height":"0 m"},{"name":"C","height":"0 m","outflow":"10 L/s"}],
"elements":[{"kind":"fixed pressure","name":"F","point":"A","pressure":"1 bar"},{"kind":"pump","name":"P","from":"A","to":"C"}]})";
  ASSERT_TRUE(window->openFile(file));
  study();
  EXPECT_TRUE(note()->isVisible()) << "no axes without a number on them";
  EXPECT_FALSE(note()->text().isEmpty());
  openSample("kestrel-fell.lconduit");
  study();
  EXPECT_FALSE(note()->isVisible());
}

TEST_F(PumpsTest, aTriedItemIsOneRowOfTheGridAndItsCaseIsInSight) {
  openPumps();
  click("place.B-1");
  study();
  // Ten cases more: the new one lies beyond the edge.
  for (int i = 0; i < 10; ++i) doc().takeModel(addCase(doc().model(), {}, drawingCase));
  doc().setCase(drawingCase);
  study();
  const auto& can = desk().result()->selection->can;
  ASSERT_FALSE(can.empty());
  doc().takeModel(tryItem(doc().model(), doc().currentCase(), id("B-1"), can.back().item));
  const CaseId made = doc().currentCase();
  EXPECT_NE(made, drawingCase);
  QTest::keyClick(window.get(), Qt::Key_4, Qt::AltModifier);
  auto& cases = window->deskOf<CasesDesk>();
  ASSERT_TRUE(QTest::qWaitFor([&] { return doc().allCurrent(); }, 20000));
  EXPECT_TRUE(QTest::qWaitFor([&] { return cases.model().rowCount() > 0; }, 10000));
  const auto rows = [&] {
    int count = 0;
    for (int r = 0; r < cases.model().rowCount(); ++r) {
      const auto spot = cases.model().at(cases.model().index(r, 0));
      count += spot.line && spot.line->elements == std::vector<Id>{id("B-1")} &&
               spot.line->kind == GridRow::Kind::field;
    }
    return count;
  };
  const int folded = rows();
  int item = -1;
  for (int r = 0; r < cases.model().rowCount(); ++r)
    if (const auto spot = cases.model().at(cases.model().index(r, 0)); spot.line && spot.line->brings > 0)
      item = r;
  ASSERT_GE(item, 0);
  EXPECT_TRUE(cases.model().toggle(cases.model().index(item, 0)));
  EXPECT_EQ(rows(), folded + static_cast<int>(cases.model().at(cases.model().index(item, 0)).line->brings));
  EXPECT_TRUE(cases.model().toggle(cases.model().index(item, 0)));
  EXPECT_EQ(rows(), folded);
  for (int c = 1; c < cases.model().columnCount(); ++c)
    if (cases.model().caseAt(cases.model().index(item, c)) == made) {
      const QRect seen = cases.grid().visualRect(cases.model().index(item, c));
      EXPECT_GE(seen.left(), 0);
      EXPECT_LE(seen.right(), cases.grid().viewport()->width()) << "in sight";
    }
}

TEST_F(PumpsTest, theLedgerOpensAtWhatIsSelectedAndPlanKeepsItInSight) {
  openSample("kestrel-fell.lconduit");
  doc().select({id("Gun 11")});
  settle();
  net().setFocus();
  plan().showElement(id("Gun 11"));
  net().showDrawer(1);
  EXPECT_TRUE(QTest::qWaitFor([&] { return net().ledger().table()->currentIndex().isValid(); }, 10000));
  const QModelIndex at = net().ledger().table()->currentIndex();
  ASSERT_TRUE(at.isValid());
  EXPECT_EQ(at.sibling(at.row(), 0).data().toString(), "Gun 11");
  const Spot spot = doc().network().at(doc().network().at(id("Gun 11")).ends[0]).at;
  EXPECT_TRUE(plan().rect().contains(plan().toScreen(spot).toPoint()));
}

}  // namespace
}  // namespace conduit::desktop
