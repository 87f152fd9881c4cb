// Keys, menus and pages of the window, each used as a hand would.
#include <gtest/gtest.h>

#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QDropEvent>
#include <QListWidget>
#include <QMimeData>
#include <QPushButton>
#include <QTableWidget>
#include <QTest>
#include <fstream>

#include "card/card.h"
#include "card/take_off_edit.h"
#include "drawer/import_page.h"
#include "drawer/ledger.h"
#include "exchange/model_file.h"
#include "layout_fixture.h"
#include "network/arrange.h"
#include "parts/registry.h"
#include "plan/line_typing.h"
#include "solve/random_network.h"

namespace conduit::desktop {
namespace {

class Hand : public Layout {
 protected:
  void drop(const QString& file) {
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(file)});
    QDragEnterEvent enter({300, 300}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(window.get(), &enter);
    EXPECT_TRUE(enter.isAccepted()) << file.toStdString();
    QDropEvent dropped({300, 300}, Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(window.get(), &dropped);
  }
  template <class W>
  W* of(const char* name) {
    W* w = window->findChild<W*>(name);
    EXPECT_NE(w, nullptr) << name;
    return w;
  }
  void choose(const char* combo, int i) {
    auto* box = of<QComboBox>(combo);
    box->setCurrentIndex(i);
    emit box->activated(i);
  }
};

TEST_F(Hand, theKeysSheetNamesEveryLetterAndAnyKeyShutsIt) {
  type("?");
  auto* keys = of<QWidget>("keys");
  ASSERT_TRUE(keys->isVisible());
  QTest::keyClick(keys, Qt::Key_A);
  EXPECT_FALSE(keys->isVisible());
  EXPECT_TRUE(plan().hasFocus());
  EXPECT_EQ(doc().network().count(), 0u) << "the key was for the sheet";
}

TEST_F(Hand, theFinderWalksByArrows) {
  openSample("millpond.lconduit");
  window->finder().open("L-");
  auto* list = window->finder().findChild<QListWidget*>("finder.list");
  auto* edit = window->finder().findChild<QLineEdit*>("finder.text");
  ASSERT_GT(list->count(), 3);
  QTest::keyClick(edit, Qt::Key_Down);
  QTest::keyClick(edit, Qt::Key_Down);
  EXPECT_EQ(list->currentRow(), 2);
  QTest::keyClick(edit, Qt::Key_Up);
  QTest::keyClick(edit, Qt::Key_Up);
  QTest::keyClick(edit, Qt::Key_Up);
  EXPECT_EQ(list->currentRow(), list->count() - 1) << "round about";
  QTest::keyClick(edit, Qt::Key_Down);
  const QString name = list->item(0)->text();
  QTest::keyClick(edit, Qt::Key_Return);
  EXPECT_EQ(doc().selected(), id(name.toStdString()));
  EXPECT_TRUE(plan().hasFocus());
}

TEST_F(Hand, theFinderWithoutTextOffersTheCommands) {
  const auto items = window->finder().itemsFor("");
  EXPECT_GT(items.size(), 20u);
  for (const FinderItem& item : items) EXPECT_FALSE(item.title.isEmpty());
}

TEST_F(Hand, arrangingFromTheMenu) {
  for (const QPoint& p : {QPoint(200, 100), QPoint(320, 180), QPoint(500, 300)}) {
    type("n");
    click(p);
    doc().select({});
  }
  run("edit.all");
  run("arrange.top");
  std::set<double> heights;
  doc().network().each([&](Id, const Element& e) { heights.insert(e.at.y); });
  EXPECT_EQ(heights.size(), 1u);
  run("arrange.across");
  std::vector<double> across;
  doc().network().each([&](Id, const Element& e) { across.push_back(e.at.x); });
  std::sort(across.begin(), across.end());
  EXPECT_NEAR(across[1] - across[0], across[2] - across[1], 1e-9);
  EXPECT_EQ(doc().history().undoName(), "Distribute 3 points");
  doc().select({id("N-1")});
  run("arrange.left");
  EXPECT_TRUE(said().contains("at least two"));
}

TEST_F(Hand, namesByPatternAndAnewAsOneReads) {
  const Id job[] = {jobId};
  ASSERT_TRUE(doc().setField(job, "name patterns", "point J001"));
  for (const QPoint& p : {QPoint(500, 300), QPoint(200, 100), QPoint(350, 100)}) {
    type("n");
    click(p);
    doc().select({});
  }
  EXPECT_NE(id("J001"), noId);
  EXPECT_NE(id("J003"), noId);
  run("names.reading");
  EXPECT_LT(at(id("J001")).x(), at(id("J002")).x());
  EXPECT_GT(at(id("J003")).y(), at(id("J002")).y()) << "the lowest is read last";
  EXPECT_FALSE(doc().setField(job, "name patterns", "nonsense"));
  EXPECT_TRUE(said().contains("a kind with its first name"));
}

TEST_F(Hand, theTableIsCorrectedByHand) {
  // A table that says nothing of itself: no headings, commas that could be either.
  net().importTable().openText("A;1,5;2,5\nB;3;4\n", "bare.txt", findPart("point"));
  waitForTable();
  auto* table = of<QTableWidget>("import.table");
  auto use = [&](int column) { return qobject_cast<QComboBox*>(table->cellWidget(0, column)); };
  EXPECT_EQ(use(0)->currentText(), "name");
  EXPECT_EQ(use(1)->currentText(), "ignore");
  for (const auto& [column, word] : {std::pair{1, "x"}, {2, "y"}}) {
    const int i = use(column)->findText(word);
    use(column)->setCurrentIndex(i);
    emit use(column)->activated(i);
  }
  waitForTable();
  EXPECT_EQ(net().importTable().result()->made, 2u) << net().importTable().result()->words();
  EXPECT_EQ(net().importTable().result()->edited.network.at(net().importTable().result()->touched[0]).at,
            (Spot{1.5, 2.5}));
  // Read with a comma between the columns it falls apart otherwise, and that shows at once.
  choose("import.separator", 2);
  waitForTable();
  EXPECT_EQ(table->item(1, 0)->text(), "A;1");
  choose("import.separator", 1);
  auto* headings = of<QCheckBox>("import.headings");
  headings->click();
  EXPECT_EQ(table->horizontalHeaderItem(0)->text(), "A") << "the first row is taken for headings";
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return of<QLabel>("import.status")->text().contains("no column"); }, 20000))
      << "and says nothing of what they are";
  // As pipes: the rows lack their ends, and each says so.
  headings->click();
  choose("import.kind", of<QComboBox>("import.kind")->findData("pipe"));
  waitForTable();
  EXPECT_EQ(net().importTable().result()->refusedCount, 2u);
  EXPECT_EQ(of<QListWidget>("import.refused")->count(), 2);
  EXPECT_FALSE(of<QPushButton>("import.take")->isEnabled());
  QTest::mouseClick(of<QPushButton>("import.leave"), Qt::LeftButton);
  EXPECT_FALSE(net().importTable().isVisible());
  EXPECT_EQ(doc().network().count(), 0u);
}

TEST_F(Hand, missingPointsAreMadeOnlyIfWanted) {
  net().importTable().openText("name,from,to,length\nL1,A,B,5\nL2,B,C,6\n", "lines.csv");
  waitForTable();
  EXPECT_EQ(net().importTable().result()->pointsMade, 3u);
  of<QCheckBox>("import.points")->click();
  waitForTable();
  EXPECT_EQ(net().importTable().result()->refusedCount, 2u);
  of<QCheckBox>("import.points")->click();
  waitForTable();
  // The model may change under the page: the result follows it.
  doc().take(place(doc().network(), *findPart("point"), {0, 0}, "", doc().stock(), &doc().units()));
  const Id made[] = {doc().selected()};
  doc().take(rename(doc().network(), made[0], "A"));
  waitForTable();
  EXPECT_EQ(net().importTable().result()->pointsMade, 2u);
  net().importTable().take();
  EXPECT_EQ(count("point"), 3u);
}

TEST_F(Hand, filesAreTakenByDrop) {
  const QString csv = dir.filePath("points.csv"), png = dir.filePath("plan.png");
  std::ofstream(csv.toStdString()) << "name,x,y\nHill,5,6\n";
  QImage image(20, 20, QImage::Format_RGB32);
  image.fill(Qt::gray);
  image.save(png);
  drop(csv);
  waitForTable();
  net().importTable().take();
  EXPECT_NE(id("Hill"), noId);
  drop(png);
  EXPECT_TRUE(QTest::qWaitFor([&] { return count("picture") == 1u; }, 10000));
  QMimeData other;
  other.setUrls({QUrl::fromLocalFile(dir.filePath("song.mp3"))});
  QDragEnterEvent enter({300, 300}, Qt::CopyAction, &other, Qt::LeftButton, {});
  QApplication::sendEvent(window.get(), &enter);
  EXPECT_FALSE(enter.isAccepted());
}

TEST_F(Hand, thePiecesAreWorkedByKeys) {
  openSample("kestrel-fell.lconduit");
  doc().select({id("L-1")});  // foot 5.8 up bend 21.5 bend 1.4 up gate
  auto pieces = [&] { return window->findChild<PieceStrip*>("pieces"); };
  auto first = [&] { return *doc().network().at(id("L-1")).text("take-off"); };
  ASSERT_EQ(pieces()->takeOff().pieces.size(), 7u);
  QTest::mouseClick(pieces(), Qt::LeftButton, {}, pieces()->boxOf(0).center().toPoint());
  QTest::keyClick(pieces(), Qt::Key_Right, Qt::ControlModifier);
  QApplication::processEvents();
  EXPECT_TRUE(QString::fromStdString(first()).startsWith("5.3 up  foot")) << first();
  QTest::keyClick(pieces(), Qt::Key_Right);
  QTest::keyClick(pieces(), Qt::Key_Delete);
  QApplication::processEvents();
  EXPECT_EQ(first(), "5.3 up  foot  52.0  bend  1.4 up  gate");
  QTest::mouseClick(pieces(), Qt::RightButton, {}, pieces()->boxOf(5).center().toPoint());
  QApplication::processEvents();
  EXPECT_EQ(first(), "5.3 up  foot  52.0  bend  1.4 up");
  doc().undo();
  EXPECT_EQ(first(), "5.3 up  foot  52.0  bend  1.4 up  gate");
}

TEST_F(Hand, theLedgerSortsWhenTold) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(1);
  Ledger& ledger = net().ledger();
  ledger.showPart(findPart("pipe"));
  auto* model = ledger.table()->model();
  int flow = -1, rough = -1;
  for (int c = 0; c < ledger.model()->columnCount(); ++c) {
    if (ledger.model()->keyOf(c) == "found flow") flow = c;
    if (ledger.model()->keyOf(c) == "given roughness") rough = c;
  }
  ledger.table()->sortByColumn(flow, Qt::DescendingOrder);
  for (int r = 1; r < model->rowCount(); ++r)
    EXPECT_GE(model->index(r - 1, flow).data(LedgerModel::sortRole).toDouble(),
              model->index(r, flow).data(LedgerModel::sortRole).toDouble());
  const QString top = model->index(0, 0).data(Qt::EditRole).toString();
  ASSERT_TRUE(model->setData(model->index(0, rough), "5 mm"));
  settle();
  EXPECT_EQ(model->index(0, 0).data(Qt::EditRole).toString(), top)
      << "the row stays under the hand that edited it";
  ledger.table()->sortByColumn(0, Qt::AscendingOrder);
  EXPECT_EQ(model->index(0, 0).data(Qt::EditRole).toString(), "L-1");
  EXPECT_EQ(model->index(9, 0).data(Qt::EditRole).toString(), "L-10") << "numbers by their size";
  // A selection of several in Plan is several in the table.
  plan().setFocus();
  doc().select({id("L-3"), id("L-4"), id("P-1")});
  std::set<int> rows;
  for (const QModelIndex& i : ledger.table()->selectionModel()->selectedIndexes()) rows.insert(i.row());
  EXPECT_EQ(rows.size(), 2u);
}

TEST_F(Hand, stockThatCannotBeKeptSaysSo) {
  // A file stands where the folder would be.
  const QString folder = Document::ownStockFolder();
  QDir(folder).removeRecursively();
  QDir().mkpath(QFileInfo(folder).path());
  { std::ofstream(folder.toStdString()) << "in the way"; }
  Stock own;
  const std::string cells[] = {"wye", "", "0.7", "", "", "", "", "", "own"};
  ASSERT_TRUE(putStockRow(own, "fittings.csv", cells, Origin::own));
  EXPECT_FALSE(doc().keepOwn(own));
  EXPECT_TRUE(said().contains("could not be written")) << said().toStdString();
  EXPECT_EQ(doc().stock()->fitting("wye"), nullptr);
  QFile::remove(folder);
  // A file of one's own that is broken is named when the program starts, and the rest of it is used.
  QDir().mkpath(folder);
  {
    std::ofstream((folder + "/fittings.csv").toStdString())
        << "word,description,k,bores_long,source\nwye,,0.7,,own\nbad,,x,,own\n";
  }
  window = std::make_unique<MainWindow>();
  window->askToDrop = [](const QString&) { return true; };
  window->show();
  ASSERT_TRUE(QTest::qWaitFor([&] { return said().contains("line 3"); }, 5000)) << said().toStdString();
  EXPECT_NE(doc().stock()->fitting("wye"), nullptr);
  QDir(folder).removeRecursively();
}

TEST(LineTyping, anythingTypedIsTakenOrRefused) {
  test::Chance c{3};
  const char* words[] = {"12.4", "up", "down", "45°", "3", "deg", "ft", "-", "x", "m", "1e9", ",", "°", "  "};
  for (int round = 0; round < 2000; ++round) {
    QString entry;
    for (int i = 0, n = 1 + c.below(5); i < n; ++i)
      entry += QString::fromUtf8(words[c.below(14)]) + (c.oneIn(2) ? " " : "");
    LineTyping typing;
    const QString fault = typing.take(entry, static_cast<LinePart>(c.below(3)), UnitSet::siWater());
    if (!fault.isEmpty()) EXPECT_TRUE(typing.empty()) << entry.toStdString();
    if (const auto length = typing.length_m(UnitSet::siWater())) EXPECT_GE(*length, 0) << entry.toStdString();
    EXPECT_TRUE(std::isfinite(typing.rise_m(UnitSet::siWater())));
  }
}

}  // namespace
}  // namespace conduit::desktop
