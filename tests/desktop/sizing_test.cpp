// The Sizing desk by mouse and keys: its three ways, the costs, what is taken and undone.
#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QCompleter>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPdfDocument>
#include <QPushButton>
#include <QRadioButton>
#include <QRegularExpression>
#include <QScrollBar>
#include <QTemporaryDir>

#include "cases/case_edits.h"
#include "desks/sizing/proposal_card.h"
#include "desks/sizing/sizing_desk.h"
#include "look/cell_table.h"
#include "model/costs.h"
#include "model/sizing_setup.h"
#include "plot/bars.h"
#include "sizing/choices.h"
#include "window_fixture.h"

namespace conduit::desktop {
namespace {

struct SizingTest : WindowTest {
  SizingDesk& desk() { return window->deskOf<SizingDesk>(); }
  void rest() {
    settle();
    for (int quiet = 0; quiet < 4;) {
      QTest::qWait(30);
      quiet = desk().busy() ? 0 : quiet + 1;
    }
  }
  void openSizing(const char* file) {
    openModel(file);
    QTest::keyClick(window.get(), Qt::Key_3, Qt::AltModifier);
    ASSERT_EQ(&window->desk(), &desk());
    rest();
  }
  void press(const char* name) { QTest::mouseClick(the<QWidget>(name), Qt::LeftButton); }
  QString cell(int row, int column) { return desk().rows().at(row, column)->text; }
  int rowOf(const QString& name) {
    for (int r = 0; r < desk().rows().rowCount(); ++r)
      if (cell(r, 0).startsWith(name)) return r;
    return -1;
  }
  std::string sizeOf(const char* line) {
    return *doc().model().drawn.at(doc().model().drawn.byName(line)).text("size");
  }
  void link(const char* label, const QString& to) {
    emit the<QLabel>(label)->linkActivated(to);
    QApplication::processEvents();
  }
};

TEST_F(SizingTest, aProposalIsTakenInPartAndUndone) {
  openSizing("tests/sizing/two_loop.lconduit");
  EXPECT_EQ(desk().rows().rowCount(), 8);
  EXPECT_EQ(cell(0, 2), "") << "nothing is proposed yet";
  press("sizing.least.cost to lay");
  type("sizing.trials", "30");
  press("sizing.search");
  rest();
  ASSERT_TRUE(desk().found() && desk().found()->done);
  const SizingProposal proposal = desk().found()->proposal;
  EXPECT_TRUE(proposal.verdict.keeps());
  EXPECT_LT(proposal.verdict.laid, 460000);
  auto* take = the<QPushButton>("sizing.take");
  EXPECT_TRUE(take->text().contains("Apply 8 selected")) << take->text().toStdString();
  EXPECT_TRUE(take->text().contains("meets all limits"));
  // By space: one left off, what remains is solved as a whole and costs more.
  desk().table().setFocus();
  desk().table().selectRow(1);
  rest();
  EXPECT_FALSE(desk().bars().data().bars.empty());
  QTest::keyClick(&desk().table(), Qt::Key_Space);
  rest();
  EXPECT_TRUE(take->text().contains("Apply 7 selected")) << take->text().toStdString();
  // By mouse, on its box.
  const QModelIndex box = desk().rows().index(2, 6);
  QTest::mouseClick(desk().table().viewport(), Qt::LeftButton, {},
                    desk().table().visualRect(box).center() + QPoint(12, 0));
  rest();
  EXPECT_TRUE(take->text().contains("Apply 6 selected")) << take->text().toStdString();
  QTest::mouseClick(take, Qt::LeftButton);
  rest();
  EXPECT_EQ(sizeOf("L-2"), "Loop 24 A");
  EXPECT_EQ(sizeOf("L-3"), "Loop 24 A");
  EXPECT_EQ(sizeOf("L-1"), desk().found()->task.rows[0].sizes[proposal.choice[0]]->name());
  EXPECT_TRUE(the<QLabel>("sizing.above")->text().contains("Out of date"));
  doc().undo();
  rest();
  EXPECT_EQ(sizeOf("L-1"), "Loop 24 A") << "one step of undo";
  // Ctrl+C copies the table.
  desk().table().setFocus();
  QTest::keyClick(&desk().table(), Qt::Key_C, Qt::ControlModifier);
  EXPECT_EQ(QApplication::clipboard()->text().split('\n').size(), 10);
  EXPECT_TRUE(QApplication::clipboard()->text().startsWith("Line\tNow\tProposed"));
}

// What users get stands beside the button; a click drops what one must get, and brings it back.
TEST_F(SizingTest, deliveriesAreShownLoosenedAndDropped) {
  openSizing("tests/sizing/two_tanks.lconduit");
  press("sizing.least.cost to lay");
  type("sizing.trials", "2");
  rest();
  const Id lower = doc().network().byName("Lower");
  auto* limits = the<QLabel>("sizing.limits");
  EXPECT_TRUE(limits->text().contains("Deliveries") && limits->text().contains("Lower"))
      << limits->text().toStdString();
  press("sizing.search");
  rest();
  ASSERT_TRUE(desk().found() && desk().found()->done);
  ASSERT_EQ(desk().found()->proposal.delivered.size(), 1u);
  EXPECT_GE(desk().found()->proposal.delivered[0].share(), 0.98);
  auto* above = the<QLabel>("sizing.above");
  EXPECT_TRUE(above->text().contains("lowest first")) << above->text().toStdString();
  link("sizing.above", "deliveries");
  rest();
  EXPECT_EQ(cell(0, 0), "Lower");
  EXPECT_EQ(cell(0, 6), "present flow less 2 %");
  link("sizing.above", "lines");
  rest();
  EXPECT_EQ(cell(0, 0), "L");
  link("sizing.limits", QString("loosen:%1").arg(lower));
  rest();
  ASSERT_EQ(doc().model().of<SizingSetup>().deliveries.size(), 1u);
  EXPECT_DOUBLE_EQ(*doc().model().of<SizingSetup>().deliveries[0].share, 0.1);
  link("sizing.limits", QString("undeliver:%1").arg(lower));
  rest();
  EXPECT_FALSE(doc().model().of<SizingSetup>().deliveries.at(0).share.has_value());
  EXPECT_TRUE(limits->text().contains("any flow")) << limits->text().toStdString();
  press("sizing.search");
  rest();
  ASSERT_TRUE(desk().found() && desk().found()->done);
  EXPECT_LT(desk().found()->proposal.delivered.at(0).share(), 0.5) << "nothing requires more";
  link("sizing.limits", QString("redeliver:%1").arg(lower));
  rest();
  EXPECT_TRUE(doc().model().of<SizingSetup>().deliveries.empty());
  doc().undo();
  rest();
  EXPECT_EQ(doc().model().of<SizingSetup>().deliveries.size(), 1u);
  type("sizing.delivery tolerance", "140 %");
  EXPECT_TRUE(the<QLineEdit>("sizing.delivery tolerance")->property("refused").toBool());
  type("sizing.delivery tolerance", "5 %");
  EXPECT_DOUBLE_EQ(sizingNumber(doc().model().of<SizingSetup>().about, sizing::tolerance), 0.05);
}

TEST_F(SizingTest, theSetUpIsOfTheModelAndItsFile) {
  openSizing("tests/sizing/two_loop.lconduit");
  press("sizing.least.mass");
  type("sizing.seed", "7");
  type("sizing.addSizes", "Loop A from 4 to 12");
  EXPECT_FALSE(the<QLineEdit>("sizing.addSizes")->property("refused").toBool());
  type("sizing.addSizes", "Loop Z");
  EXPECT_TRUE(the<QLineEdit>("sizing.addSizes")->property("refused").toBool());
  type("sizing.trials", "many");
  EXPECT_TRUE(the<QLineEdit>("sizing.trials")->property("refused").toBool());
  doc().select({doc().network().byName("L-2"), doc().network().byName("L-3")});
  rest();
  link("sizing.ties", "tie");
  doc().select({doc().network().byName("L-8")});
  rest();
  link("sizing.left", "leave");
  rest();
  const SizingSetup setup = doc().model().of<SizingSetup>();
  ASSERT_EQ(setup.ranges.size(), 1u);
  EXPECT_EQ(said(setup.ranges[0]), "Loop A from 4 to 12");
  ASSERT_EQ(setup.tied.size(), 1u);
  EXPECT_EQ(setup.tied[0].lines.size(), 2u);
  EXPECT_EQ(setup.left.size(), 1u);
  EXPECT_EQ(desk().rows().rowCount(), 0) << "these sizes have no mass, and mass is wanted";
  press("sizing.least.cost to lay");
  rest();
  EXPECT_EQ(desk().rows().rowCount(), 6) << "two tied, one left";
  QTemporaryDir folder;
  ASSERT_TRUE(doc().save(folder.filePath("set.lconduit")));
  ASSERT_TRUE(window->openFile(folder.filePath("set.lconduit")));
  rest();
  EXPECT_EQ(doc().model().of<SizingSetup>().ranges, setup.ranges);
  EXPECT_EQ(doc().model().of<SizingSetup>().tied[0].lines.size(), 2u);
  EXPECT_DOUBLE_EQ(sizingNumber(doc().model().of<SizingSetup>().about, sizing::seed), 7);
  link("sizing.ties", "untie:0");
  rest();
  EXPECT_TRUE(doc().model().of<SizingSetup>().tied.empty());
  doc().undo();
  rest();
  EXPECT_EQ(doc().model().of<SizingSetup>().tied.size(), 1u);
}

TEST_F(SizingTest, keptProposalsAreComparedAndComeBack) {
  openSizing("tests/sizing/two_loop.lconduit");
  press("sizing.least.cost to lay");
  type("sizing.trials", "2");
  press("sizing.search");
  rest();
  const SizeChoice first = desk().found()->proposal.choice;
  link("sizing.below", "keep");
  rest();
  ASSERT_EQ(doc().model().of<SizingSetup>().kept.size(), 1u);
  EXPECT_FALSE(the<QLabel>("sizing.above")->text().contains("Older"))
      << "what was found is still of this model";
  // Further, from the next seed; never worse.
  double laid = desk().found()->proposal.verdict.laid;
  for (int again = 0; again < 4; ++again) {
    press("sizing.search");
    rest();
    EXPECT_LE(desk().found()->proposal.verdict.laid, laid);
    laid = desk().found()->proposal.verdict.laid;
  }
  type("sizing.trials", "20");
  press("sizing.search");
  rest();
  EXPECT_TRUE(the<QLabel>("sizing.below")->text().contains("Proposal 1"));
  link("sizing.below", "kept:0");
  rest();
  EXPECT_EQ(desk().found()->proposal.choice, first);
  link("sizing.below", "drop:0");
  rest();
  EXPECT_TRUE(doc().model().of<SizingSetup>().kept.empty());
}

TEST_F(SizingTest, oneLineShowsEverySizeAndTakesOne) {
  openSizing("tests/sizing/two_loop.lconduit");
  doc().select({doc().network().byName("L-4")});
  press("sizing.way.line");
  rest();
  ASSERT_TRUE(desk().line().has_value());
  EXPECT_EQ(desk().rows().rowCount(), 14);
  EXPECT_EQ(the<QComboBox>("sizing.line")->currentText(), "L-4");
  EXPECT_EQ(cell(13, 0), "24, now");
  // Velocity by hand: the whole network as drawn, 24 inches; v = Q/(π D²/4).
  const double q = std::abs(*doc().solved()->solution.branch(doc().network().byName("L-4"), 0).flow_m3s);
  EXPECT_NEAR(*desk().line()->sizes[13].velocity_ms, q / (M_PI * 0.6096 * 0.6096 / 4), 1e-9);
  desk().table().selectRow(12);
  QApplication::processEvents();
  auto* take = the<QPushButton>("sizing.take");
  EXPECT_TRUE(take->text().contains("Use Loop 22 A")) << take->text().toStdString();
  QTest::mouseClick(take, Qt::LeftButton);
  rest();
  EXPECT_EQ(sizeOf("L-4"), "Loop 22 A");
  // The exact bore for a velocity: Q/v by hand, at the flow that it then has.
  type("sizing.goal", "velocity 0.15 m/s");
  rest();
  EXPECT_TRUE(the<QLabel>("sizing.below")->text().contains("a bore of"))
      << the<QLabel>("sizing.below")->text().toStdString();
  type("sizing.goal", "colour 3");
  EXPECT_TRUE(the<QLineEdit>("sizing.goal")->property("refused").toBool());
  // Another line by the box.
  auto* which = the<QComboBox>("sizing.line");
  which->setCurrentIndex(which->findText("L-7"));
  emit which->activated(which->currentIndex());
  rest();
  EXPECT_TRUE(the<QLabel>("sizing.above")->text().contains("L-7"));
}

TEST_F(SizingTest, flowAndReturnAreOneRowUntilTheyAreParted) {
  openSizing("samples/larch-court.lconduit");
  rest();
  const auto rows = [&] { return desk().rows().rowCount(); };
  EXPECT_EQ(rows(), 6);
  EXPECT_TRUE(the<QLabel>("sizing.ties")->text().contains("flow and return"));
  link("sizing.ties", "pair:0");
  EXPECT_EQ(doc().selection(),
            (std::vector<Id>{doc().network().byName("L-1"), doc().network().byName("L-2")}));
  link("sizing.ties", "unpair:0");
  rest();
  EXPECT_EQ(rows(), 7);
  link("sizing.ties", "unpairall");
  rest();
  EXPECT_EQ(rows(), 15);
  doc().undo();
  rest();
  EXPECT_EQ(rows(), 7);
  link("sizing.ties", "repair");
  rest();
  EXPECT_EQ(rows(), 6);
}

TEST_F(SizingTest, balanceTakesOpeningsAndFlowsAreTyped) {
  openSizing("samples/larch-court.lconduit");
  press("sizing.way.balance");
  rest();
  ASSERT_TRUE(desk().flows() && desk().flows()->balanced);
  EXPECT_EQ(desk().rows().rowCount(), 3);
  EXPECT_EQ(doc().network().at(desk().flows()->index).name, "V-1");
  // Another flow for the second: typed in the table, refused in words where it is none.
  const auto write = [&](int row, const QString& words) {
    desk().rows().setData(desk().rows().index(row, 1), words, Qt::EditRole);
    QApplication::processEvents();
    rest();
  };
  write(1, "fast");
  EXPECT_TRUE(desk().rows().at(1, 1)->refused);
  EXPECT_EQ(doc().model().of<SizingSetup>().branches.size(), 3u);
  write(1, "2.6 L/s");
  EXPECT_EQ(doc().model().of<SizingSetup>().branches.size(), 3u);
  ASSERT_TRUE(desk().flows() && desk().flows()->balanced);
  press("sizing.take");
  rest();
  // Plainly solved, the openings give the flows.
  for (const auto& [valve, flow] : {std::pair{"V-1", 3.2e-3}, {"V-2", 2.6e-3}, {"V-3", 1.6e-3}})
    EXPECT_NEAR(*doc().solved()->solution.branch(doc().network().byName(valve), 0).flow_m3s, flow,
                1e-3 * flow)
        << valve;
  doc().undo();
  rest();
  EXPECT_GT(*doc().solved()->solution.branch(doc().network().byName("V-3"), 0).flow_m3s, 1.7e-3);
  // More than it can: no opening is taken, and it is said why.
  write(2, "60 L/s");
  EXPECT_FALSE(desk().flows() && desk().flows()->balanced);
  EXPECT_TRUE(the<QLabel>("sizing.above")->text().contains("▲"));
}

// Too many flows: which of them to let go stands as links, and one click lets it go.
TEST_F(SizingTest, aHeaderThatIsAskedTooMuchLetsAFlowGo) {
  openSizing("tests/sizing/asked_too_much.lconduit");
  press("sizing.way.balance");
  rest();
  ASSERT_TRUE(desk().flows().has_value());
  EXPECT_FALSE(desk().flows()->balanced);
  const Id v2 = doc().network().byName("V-2");
  EXPECT_TRUE(the<QLabel>("sizing.above")->text().contains("Clear the design flow of V-2"))
      << the<QLabel>("sizing.above")->text().toStdString();
  link("sizing.above", qPrintable(QString("letgo:%1").arg(v2)));
  rest();
  ASSERT_EQ(doc().model().of<SizingSetup>().branches.size(), 2u);
  EXPECT_FALSE(the<QLabel>("sizing.above")->text().contains("Clear a design flow"));
  doc().undo();
  rest();
  EXPECT_EQ(doc().model().of<SizingSetup>().branches.size(), 3u);
}

// A proved branched network: lines of two sizes are taken in one step, and one step of undo.
TEST_F(SizingTest, linesOfTwoSizesAreTakenAndUndone) {
  openSizing("tests/sizing/branched.lconduit");
  press("sizing.search");
  rest();
  ASSERT_TRUE(desk().found() && desk().found()->proposal.proved);
  ASSERT_TRUE(desk().found()->proposal.two.has_value());
  EXPECT_TRUE(the<QLabel>("sizing.above")->text().contains("in two sizes"))
      << the<QLabel>("sizing.above")->text().toStdString();
  const std::size_t before = doc().network().count(), split = desk().found()->proposal.two->lines.size();
  // A proposal that was kept meanwhile stays kept.
  link("sizing.below", "keep");
  rest();
  link("sizing.above", "two");
  rest();
  EXPECT_EQ(doc().network().count(), before + 2 * split);
  EXPECT_EQ(doc().model().of<SizingSetup>().kept.size(), 1u);
  ASSERT_TRUE(doc().solved() && doc().solved()->usable());
  EXPECT_TRUE(doc().solved()->findings.empty());
  doc().undo();
  rest();
  EXPECT_EQ(doc().network().count(), before);
}

// Selected lines are put into a class that is typed; two selected points tie the way between them.
TEST_F(SizingTest, classesOfLayingAndRoutesAreOfTheSelection) {
  openSizing("tests/sizing/branched.lconduit");
  const auto id = [&](const char* name) { return doc().network().byName(name); };
  const QString before = cell(1, 4);
  type("sizing.addLaying", "road 40 + 12");
  EXPECT_TRUE(the<QLineEdit>("sizing.addLaying")->property("refused").toBool()) << "nothing is selected";
  doc().select({id("L-2"), id("L-4")});
  rest();
  type("sizing.addLaying", "road");
  EXPECT_TRUE(the<QLineEdit>("sizing.addLaying")->property("refused").toBool()) << "no such class yet";
  type("sizing.addLaying", "road 40 + 12");
  rest();
  ASSERT_EQ(doc().model().of<SizingSetup>().laying.size(), 1u);
  EXPECT_EQ(doc().model().of<SizingSetup>().laying[0].lines.size(), 2u);
  // By hand: 400 m at 150 mm bore, 154 outside: 52 + 40 + 12 · 1.54 a metre.
  EXPECT_EQ(rowOf("L-2"), 1);
  EXPECT_NE(cell(1, 4), before);
  EXPECT_NEAR(desk().found() ? 0 : cell(1, 4).remove(QChar(0x202f)).remove(' ').toDouble(),
              400 * (92 + 18.48), 1);
  doc().select({id("A"), id("D")});
  rest();
  EXPECT_TRUE(the<QLabel>("sizing.ties")->text().contains("group route A to D"))
      << the<QLabel>("sizing.ties")->text().toStdString();
  link("sizing.ties", "route");
  rest();
  ASSERT_EQ(doc().model().of<SizingSetup>().tied.size(), 1u);
  EXPECT_EQ(doc().model().of<SizingSetup>().tied[0].lines, (std::vector<Id>{id("L-2"), id("L-4")}));
  link("sizing.laying", "unlaid:0");
  rest();
  EXPECT_TRUE(doc().model().of<SizingSetup>().laying.empty());
}

// With a pump (NPSH) and interest (plain sums) there are most columns: all stand in their place, none scrolls
// away, and no number is cut off.
TEST_F(SizingTest, allColumnsOfOneLineStandInTheirPlace) {
  openSizing("samples/kestrel-fell.lconduit");
  press("sizing.way.costs");
  type("costs.interest", "6 %");
  doc().select({doc().network().byName("L-1")});
  press("sizing.way.line");
  rest();
  const CellTable& table = desk().table();
  for (const std::size_t columns : {11u, 10u}) {
    ASSERT_EQ(desk().rows().columns().size(), columns);
    EXPECT_EQ(table.horizontalScrollBar()->maximum(), 0);
    for (int r = 0; r < desk().rows().rowCount(); ++r)
      for (int c = 0; c + 1 < static_cast<int>(columns); ++c) {
        const Cell& at = *desk().rows().at(r, c);
        const QFontMetrics letters(face(12.5, at.ink == Cell::Ink::strong));
        // Room beside the words as cells are drawn.
        EXPECT_LE(letters.horizontalAdvance(at.text) + 16, table.columnWidth(c))
            << at.text.toStdString() << " in column " << c;
      }
    // What makes up the costs, in place of what flows.
    if (columns == 11u) emit the<QLabel>("sizing.story")->linkActivated("each");
  }
  // They add up: laid, pumps, upkeep and energy are the whole life; the energy is that of the network.
  const SizingVerdict& v = desk().line()->sizes[12].verdict;
  EXPECT_NEAR(v.laid + v.pumps + v.upkeep + v.energyCost, v.wholeLife, 1e-6 * v.wholeLife);
  EXPECT_EQ(desk().rows().columns()[6].name, "energy");
  EXPECT_EQ(cell(12, 6).remove(QRegularExpression("[^0-9]")).toDouble(), std::round(v.energyCost));
}

TEST_F(SizingTest, costsAreTypedAndCountAtOnce) {
  openSizing("samples/larch-court.lconduit");
  press("sizing.way.costs");
  rest();
  // (1 − 1.04^−15)/0.04 = 11.118 by hand; without interest the plain sum.
  EXPECT_TRUE(the<QLabel>("sizing.worked")->text().contains("11.118"))
      << the<QLabel>("sizing.worked")->text().toStdString();
  type("costs.interest", "0 %");
  rest();
  EXPECT_TRUE(the<QLabel>("sizing.worked")->text().contains("<b>15</b>"));
  type("costs.upkeep", "dear");
  EXPECT_TRUE(the<QLineEdit>("costs.upkeep")->property("refused").toBool());
  type("costs.hours.0", "2000");
  rest();
  EXPECT_DOUBLE_EQ(*costOf(doc().model().costs, costs::hours), 2000 * 3600.0);
  EXPECT_TRUE(the<QCheckBox>("sizing.case.0")->text().contains("2 000") ||
              the<QCheckBox>("sizing.case.0")->text().contains("2\u202f000"));
}

// On the card of a pipe: each size with what it would do at the flow there is; the bore of least cost.
TEST_F(SizingTest, theCardOfAPipeShowsSizesAtItsFlow) {
  openModel("samples/kestrel-fell.lconduit");
  const Id line = doc().network().byName("L-13");
  doc().select({line});
  settle();
  auto* edit = the<QLineEdit>("given.size");
  ASSERT_TRUE(edit->completer());
  const auto* model = edit->completer()->model();
  const double q = std::abs(*doc().solved()->solution.branch(line, 0).flow_m3s);
  bool seen = false;
  for (int r = 0; r < model->rowCount(); ++r) {
    const QString words = model->index(r, 0).data().toString();
    if (!words.startsWith("ASME B36.10M 6 40 ")) continue;
    seen = true;
    // v = Q/(π D²/4), with the bore of the standard: 154.1 mm (168.3 less twice 7.11).
    const double v = q / (M_PI * 0.15408 * 0.15408 / 4);
    EXPECT_NEAR(words.section(" m/s", 0, 0).section(' ', -1).toDouble(), v, 0.005 * v) << words.toStdString();
    EXPECT_TRUE(words.contains("m per 100 m"));
    // Chosen, the name alone is typed.
    EXPECT_EQ(edit->completer()->pathFromIndex(model->index(r, 0)), "ASME B36.10M 6 40");
  }
  EXPECT_TRUE(seen);
  auto* economic = the<QLabel>("economic");
  EXPECT_TRUE(economic->isVisible());
  EXPECT_TRUE(economic->text().contains("Economic bore")) << economic->text().toStdString();
  emit economic->linkActivated("how");
  QApplication::processEvents();
  EXPECT_TRUE(economic->text().contains("5 B/(m a)"));
  // A pump has none; nor a line where no tariff is given.
  doc().select({doc().network().byName("P-1")});
  settle();
  EXPECT_FALSE(the<QLabel>("economic")->isVisible());
  doc().select({line});
  doc().takeModel(setCost(doc().model(), costs::tariff, "", &doc().units()));
  settle();
  EXPECT_FALSE(the<QLabel>("economic")->isVisible());
}

TEST_F(SizingTest, nothingToSizeIsSaidAndNothingBreaks) {
  QTest::keyClick(window.get(), Qt::Key_3, Qt::AltModifier);
  rest();
  EXPECT_TRUE(the<QLabel>("sizing.above")->text().contains("Nothing to size"));
  for (const char* way :
       {"sizing.way.line", "sizing.way.balance", "sizing.way.costs", "sizing.way.network"}) {
    press(way);
    rest();
  }
  EXPECT_FALSE(desk().writeSheet("/nowhere/x.html"));
  // A model that goes away while it is searched.
  openModel("samples/kestrel-fell.lconduit");
  desk().search();
  ASSERT_TRUE(QTest::qWaitFor([&] { return desk().found() != nullptr; }, 60000)) << "it has begun";
  openModel("samples/larch-court.lconduit");
  rest();
  EXPECT_FALSE(desk().found());
  // Stopped, what is best stays.
  openModel("samples/kestrel-fell.lconduit");
  desk().search();
  ASSERT_TRUE(QTest::qWaitFor([&] { return desk().found() != nullptr; }, 60000));
  press("sizing.search");
  rest();
  ASSERT_TRUE(desk().found());
  QTemporaryDir folder;
  EXPECT_TRUE(desk().writeSheet(folder.filePath("sizes.html")));
  QFile sheet(folder.filePath("sizes.html"));
  ASSERT_TRUE(sheet.open(QIODevice::ReadOnly));
  EXPECT_TRUE(sheet.readAll().contains("L-44"));
  // On paper the letters are of a size that can be read: the table fills most of the width of more than one
  // page.
  ASSERT_TRUE(desk().writeSheet(folder.filePath("sizes.pdf")));
  QPdfDocument paper;
  ASSERT_EQ(paper.load(folder.filePath("sizes.pdf")), QPdfDocument::Error::None);
  EXPECT_GE(paper.pageCount(), 2);
  EXPECT_LE(paper.pageCount(), 4);
  QImage page(842, 595, QImage::Format_RGB32);
  page.fill(Qt::white);
  QPainter(&page).drawImage(0, 0, paper.render(0, page.size()));
  int right = 0;
  for (int y = 0; y < page.height(); ++y)
    for (int x = 0; x < page.width() * 0.9; ++x)
      if (qGray(page.pixel(x, y)) < 128) right = std::max(right, x);
  EXPECT_GT(right, 550);
}

}  // namespace
}  // namespace conduit::desktop
