// Laying out a network in the real window: drawn by hand and keys, taken from tables, changed by typing.
#include <gtest/gtest.h>

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QProcess>
#include <QStandardPaths>
#include <QTableView>
#include <QTemporaryDir>
#include <QTest>
#include <QToolButton>
#include <cmath>
#include <fstream>

#include "card/card.h"
#include "card/take_off_edit.h"
#include "drawer/import_page.h"
#include "drawer/ledger.h"
#include "drawer/stock_page.h"
#include "exchange/model_file.h"
#include "layout_fixture.h"
#include "parts/registry.h"
#include "plan/line_typing.h"
#include "plan/snap.h"
#include "solve/random_network.h"

namespace conduit::desktop {
namespace {

TEST(LineTyping, takesLengthRiseAndDirectionInAnyOrder) {
  const UnitSet& si = UnitSet::siWater();
  LineTyping t;
  EXPECT_TRUE(t.take("45° 12.4 3.1 up", LinePart::length, si).isEmpty());
  EXPECT_EQ(t.length(), "12.4");
  EXPECT_NEAR(t.rise_m(si), 3.1, 1e-12);
  EXPECT_NEAR(*t.direction_deg(), 45, 1e-12);
  t.clear();
  EXPECT_TRUE(t.take("40 ft 2 m down", LinePart::length, si).isEmpty());
  EXPECT_NEAR(*t.length_m(si), 12.192, 1e-12);
  EXPECT_NEAR(t.rise_m(si), -2, 1e-12);
  EXPECT_TRUE(t.take("-30", LinePart::direction, si).isEmpty());
  EXPECT_NEAR(*t.direction_deg(), -30, 1e-12);
  for (const char* bad : {"abc", "-3", "2 bar", "x up"}) {
    LineTyping before = t;
    EXPECT_FALSE(t.take(bad, LinePart::length, si).isEmpty()) << bad;
    EXPECT_EQ(t.length(), before.length()) << "nothing half taken";
  }
  t.clear();
  t.stepRise(1, si), t.stepRise(1, si), t.stepRise(-0.1, si);
  EXPECT_NEAR(t.rise_m(si), 1.9, 1e-12);
  t.stepRise(-1.9, si);
  EXPECT_TRUE(t.rise().isEmpty());
}

TEST(Snap, holdsOnInTheOrderSaid) {
  Draft draft{Network()};
  const Id a = draft.addPoint("A", {0, 0}), b = draft.addPoint("B", {100, 37.3});
  const Network net = std::move(draft).finish();
  const std::vector<std::pair<Id, Spot>> points{{a, {0, 0}}, {b, {100, 37.3}}};
  SnapField field{&points, Spot{0, 0}, {}, {}, 5.0, 2.0, false};
  Snap s = snapTo({50.2, 0.8}, field, net, "grid");
  EXPECT_EQ(s.words, "0°");
  EXPECT_NEAR(s.at.x, 50, 1e-9);
  EXPECT_NEAR(s.at.y, 0, 1e-9);
  s = snapTo({100.4, 0.6}, field, net, "grid");
  EXPECT_EQ(s.words, "0°, vertical with B");
  EXPECT_NEAR(s.at.x, 100, 1e-9);
  s = snapTo({30, 30.5}, field, net, "grid");
  EXPECT_EQ(s.words, "45°");
  s = snapTo({61, 23}, field, net, "grid");
  EXPECT_EQ(s.words, "grid");
  EXPECT_EQ(s.at, (Spot{60, 25}));
  s = snapTo({85, 37.0}, field, net, "grid");
  EXPECT_EQ(s.words, "horizontal with B");
  field.length_m = 12.5, field.direction = 90;
  s = snapTo({77, 3}, field, net, "grid");
  EXPECT_NEAR(s.at.x, 0, 1e-9);
  EXPECT_NEAR(s.at.y, 12.5, 1e-9);
  SnapField loose{&points, {}, {}, {}, 5.0, 2.0, true};
  EXPECT_EQ(snapTo({61.23, 23.4}, loose, net, "grid").at, (Spot{61.23, 23.4}));
}

// Friction factor of Colebrook and White by plain repetition, for the expected values below.
double colebrook(double re, double relative) {
  double f = 0.02;
  for (int i = 0; i < 200; ++i)
    f = std::pow(-2 * std::log10(relative / 3.7 + 2.51 / (re * std::sqrt(f))), -2);
  return f;
}

// Thirty pipes, three pumps, forty fittings: two pumps side by side, a booster, a trunk with eight branches
// to each side. All by clicks and keys on the drawing, no dialog. What flows follows from the draw-offs
// alone; the head at the last branch is worked out beside it: level, the pumps' tabled heads at those very
// flows, less losses by Colebrook-White and K.
TEST_F(Layout, thirtyPipesThreePumpsFortyFittingsByHandAndKeys) {
  QElapsedTimer clock;
  clock.start();
  type("t");
  click({70, 210});
  type("20");
  key(Qt::Key_Return);
  type("l");
  click({70, 210});
  click({150, 210});
  const Id a = doc().network().at(doc().selected()).ends[1];
  auto pumped = [&](QPoint suction, QPoint toward) {
    click(suction);
    QTest::mouseMove(&plan(), toward);
    type("p");
  };
  pumped({205, 150}, {300, 150});
  click({335, 210});
  const Id j0 = doc().network().at(doc().selected()).ends[1];
  key(Qt::Key_Escape);
  type("l");
  click(at(a));
  pumped({205, 270}, {300, 270});
  click(at(j0));
  pumped({372, 210}, {450, 210});
  std::vector<Id> trunk;
  for (int i = 0; i < 8; ++i) {
    click({460 + 52 * i, 210});
    trunk.push_back(doc().network().at(doc().selected()).ends[1]);
  }
  key(Qt::Key_Escape);
  for (std::size_t i = 0; i < trunk.size(); ++i)
    for (const int way : {-1, 1}) {
      type("l");
      click(at(trunk[i]));
      if (i == 0) key(Qt::Key_PageUp), key(Qt::Key_PageUp);  // the first two rise by 2 m
      click({at(trunk[i]).x(), 210 + way * 90});
      key(Qt::Key_Escape);
      const Id end = doc().network().at(doc().selected()).ends[1];
      doc().select({end});
      ask("outflow 0.5625 L/s");
    }
  EXPECT_EQ(count("pipe"), 30u);
  EXPECT_EQ(count("pump"), 3u);
  EXPECT_EQ(given("N-1", "height"), "19 m") << "a tank's connection stands a metre under its level";

  ask("pipes");
  ask("bore 80 mm");
  ask("pipes");
  ask("roughness 0.05 mm");
  for (const char* name : {"P-1", "P-2"}) {
    ask(QString(name) + " stock item Fold 5-25");
  }
  ask("P-3 stock item Tier 10-80");
  // Two take-offs typed in the card's field, the others pasted as they were noted.
  auto takeOff = [](int n) {
    return n <= 14 ? std::string("6 elbow tee-run") : n <= 26 ? std::string("4 elbow") : std::string("4");
  };
  for (const char* name : {"L-1", "L-2"}) {
    doc().select({id(name)});
    net().card().focusField("take-off");
    auto* edit = window->findChild<QLineEdit*>("given.take-off");
    ASSERT_NE(edit, nullptr);
    QTest::keyClicks(edit, QString::fromStdString(takeOff(1)));
    if (QWidget* offered = QApplication::activePopupWidget()) offered->hide();
    QTest::keyClick(edit, Qt::Key_Return);
    settle();
  }
  QString lines;
  for (int n = 3; n <= 30; ++n) lines += QString("L-%1: %2\n").arg(n).arg(QString::fromStdString(takeOff(n)));
  QApplication::clipboard()->setText(lines);
  plan().setFocus();
  run("edit.paste");
  settle();
  EXPECT_EQ(QApplication::activeModalWidget(), nullptr);

  std::size_t fittings = 0;
  doc().network().each([&](Id, const Element& e) {
    if (const auto* text = e.text("take-off")) {
      const auto read = parseTakeOff(*text, *doc().stock());
      for (const Piece& p : read->pieces)
        fittings += p.kind == PieceKind::fitting ? static_cast<std::size_t>(p.count) : 0;
    }
  });
  EXPECT_EQ(fittings, 40u);
  const Solution& s = doc().solved()->solution;
  ASSERT_TRUE(s.summary.usable()) << s.summary.full();
  EXPECT_NEAR(*s.branch(id("L-1"), 0).flow_m3s, 9e-3, 1e-12);
  EXPECT_NEAR(*s.branch(id("P-1"), 0).flow_m3s, 4.5e-3, 1e-9);
  EXPECT_NEAR(*s.branch(id("P-3"), 0).flow_m3s, 9e-3, 1e-12);
  // By hand.
  const double g = 9.80665, d = 0.08, area = M_PI / 4 * d * d, nu = s.setting.viscosity_m2s;
  auto loss = [&](double q, double length, double bores) {  // bores: of the fittings, in complete turbulence
    const double v = q / area, fT = 0.25 / std::pow(std::log10(0.0457e-3 / (3.7 * d)), 2);
    return (colebrook(v * d / nu, 0.05e-3 / d) * length / d + bores * fT) * v * v / (2 * g);
  };
  const double trunkBores = 30 + 20, q = 0.5625e-3;
  double head = 20 - 0.5 * std::pow(9e-3 / area, 2) / (2 * g);  // entrance of the tank
  head -= loss(9e-3, 6, trunkBores);                            // L-1
  const auto tabled = [&](const char* item, double flow) {
    const StockItem* i = doc().stock()->item("pump", item);
    const QStringList rows = QString::fromStdString(i->fields.front().second).split(';');
    for (const QString& row : rows)
      if (std::abs(row.section('|', 0, 0).remove("L/s").trimmed().toDouble() - flow) < 1e-9)
        return row.section('|', 1, 1).remove("m").trimmed().toDouble();
    return std::nan("");
  };
  head += tabled("Fold 5-25", 4.5) - 2 * loss(4.5e-3, 6, trunkBores);  // to the pump and from it
  head += tabled("Tier 10-80", 9) - 2 * loss(9e-3, 6, trunkBores);
  for (int i = 1; i < 8; ++i) head -= loss(9e-3 - 2 * i * q, 6, trunkBores);
  head -= loss(q, 4, 0);  // the last branch, without an elbow
  const Id last = doc().network().at(id("L-30")).ends[1];
  EXPECT_NEAR(*s.head(last), head, 1e-5);
  std::printf("  the script took %.1f s of the machine's time\n",
              static_cast<double>(clock.elapsed()) / 1000);

  // Undone to the empty sheet and done again, it is the same.
  const std::string text = writeModel(doc().network());
  while (doc().history().canUndo()) doc().undo();
  EXPECT_EQ(doc().network().count(), 0u);
  doc().jumpTo(doc().history().size() - 1);
  EXPECT_EQ(writeModel(doc().network()), text);
}

TEST_F(Layout, typedPiecesStandAsTypedAndHeightsFollow) {
  type("n");
  click({200, 200});
  type("10");
  key(Qt::Key_Return);
  type("l");
  click(at(id("N-1")));
  QTest::mouseMove(&plan(), {400, 200});
  type("12.4");
  key(Qt::Key_Tab);
  type("3");
  key(Qt::Key_Tab);
  type("90");
  key(Qt::Key_Return);
  const Element& first = doc().network().at(doc().selected());
  EXPECT_EQ(first.given("length")->typed, "12.4 m");
  const Element& end = doc().network().at(first.ends[1]);
  EXPECT_NEAR(end.given("height")->value, 13, 1e-9);
  const Spot from = doc().network().at(first.ends[0]).at;
  EXPECT_NEAR(end.at.x, from.x, 1e-9);
  EXPECT_NEAR(end.at.y - from.y, 12.4, 1e-9);
  type("6 up");
  key(Qt::Key_Return);
  const Element& riser = doc().network().at(doc().selected());
  EXPECT_EQ(riser.given("length")->typed, "6 m");
  EXPECT_NEAR(doc().network().at(riser.ends[1]).given("height")->value, 19, 1e-9);
  // A click while a length is typed says where; the length is the typed one.
  type("7.5");
  click({600, 150});
  EXPECT_EQ(doc().network().at(doc().selected()).given("length")->typed, "7.5 m");
  type("abc");
  EXPECT_EQ(count("pipe"), 3u) << "letters without a number are commands; none of these is one";
}

TEST_F(Layout, notToScaleALengthIsEnteredAndItsLackIsStepped) {
  doc().select({});
  ask("not to scale");  // nothing is called so
  net().card().focusField("drawing");
  const Id job[] = {jobId};
  ASSERT_TRUE(doc().setField(job, "drawing", "not to scale"));
  plan().setFocus();
  type("l");
  click({200, 200});
  click({400, 200});
  click({400, 300});
  key(Qt::Key_Escape);
  EXPECT_TRUE(doc().network().at(id("L-1")).values.assumed("length")) << "the drawing says no length";
  settle();
  doc().select({});
  run("view.incomplete");
  EXPECT_TRUE(said().contains("Assumed value 1 of 5")) << said().toStdString();
  for (const char* name : {"L-1", "L-2"}) {
    const Id line[] = {id(name)};
    ASSERT_TRUE(doc().setField(line, "length", ""));
  }
  settle();
  doc().select({});
  run("view.incomplete");
  const Id firstOne = doc().selected();
  ASSERT_NE(firstOne, noId);
  run("view.incomplete");
  EXPECT_NE(doc().selected(), firstOne);
  EXPECT_TRUE(said().contains("Incomplete 2 of 2")) << said().toStdString();
  run("view.incomplete-back");
  EXPECT_EQ(doc().selected(), firstOne);
}

TEST_F(Layout, anElementTurnsIntoAnotherAndItIsTold) {
  openSample("millpond.lconduit");
  doc().select({id("Foot valve")});
  auto* kind = window->findChild<QToolButton*>("kind");
  ASSERT_NE(kind, nullptr);
  emit kind->menu()->aboutToShow();
  QAction* into = nullptr;
  for (QAction* a : kind->menu()->actions())
    if (a->text() == "Change to a pressure-reducing valve") into = a;
  ASSERT_NE(into, nullptr);
  into->trigger();
  settle();
  EXPECT_EQ(doc().network().at(doc().selected()).part->key, "reducing valve");
  EXPECT_TRUE(said().contains("needs set point")) << said().toStdString();
  doc().undo();
  EXPECT_EQ(doc().network().at(id("Foot valve")).part->key, "check valve");
  // Several at once, by the finder.
  ask("pipes");
  const std::size_t pipes = doc().selection().size();
  ask("turn into a strainer");
  EXPECT_EQ(count("strainer"), pipes + 1);
}

TEST_F(Layout, theFinderFindsGivesAndSelects) {
  openSample("kestrel-fell.lconduit");
  ask("L-39 bore 80 mm");
  EXPECT_EQ(given("L-39", "bore"), "80 mm");
  EXPECT_EQ(doc().selected(), id("L-39"));
  ask("velocity > 2.2 m/s");
  for (const Id pipe : doc().selection()) {
    const ReadingOf r(doc().network(), doc().solved()->solution, pipe);
    EXPECT_GT(std::abs(*r->branches[0].flow_m3s), 0);
  }
  EXPECT_FALSE(doc().selection().empty());
  auto first = [&](const char* text) {
    const auto items = window->finder().itemsFor(text);
    return items.empty() ? QString() : items.front().title;
  };
  EXPECT_EQ(first("Tarn"), "Tarn");
  EXPECT_EQ(first("NPSH margin"), "Minimum NPSH margin") << "limits are found";
  EXPECT_EQ(first("NPSH margin at least"), "Minimum NPSH margin") << "by their key too";
  EXPECT_TRUE(first("help: take").contains("take-off")) << "help is found";
  EXPECT_TRUE(first("fit plan").startsWith("Fit Plan")) << "commands are found";
  doc().select({id("L-39")});
  EXPECT_TRUE(first("iso 4427 pe100 110 sdr 11").contains("ISO 4427")) << "stock is found";
  ask("iso 4427 pe100 110 sdr 11");
  EXPECT_EQ(*doc().network().at(id("L-39")).text("size"), "ISO 4427 PE100 110 SDR 11");
  ask("replace Gun by Lance");
  EXPECT_NE(id("Lance 1"), noId);
  const auto refused = window->finder().itemsFor("L-39 bore 80 bar");
  ASSERT_FALSE(refused.empty());
  EXPECT_TRUE(refused.front().detail.contains("bar")) << "what is wrong is said before it is tried";
  window->finder().open("xyzzy");
  EXPECT_TRUE(window->finder().findChild<QListWidget*>("finder.list")->item(0)->text().contains("No match"));
  QTest::keyClick(window->finder().findChild<QLineEdit*>("finder.text"), Qt::Key_Escape);
  EXPECT_FALSE(window->finder().isVisible());
}

TEST_F(Layout, theHistoryJumpsAndNamesEveryStep) {
  openSample("millpond.lconduit");
  ask("L-4 bore 60 mm");
  ask("L-4 bore 70 mm");
  ask("replace L- by W-");
  auto* menu = window->findChild<QMenu*>("history");
  ASSERT_NE(menu, nullptr);
  emit menu->aboutToShow();
  QStringList names;
  for (QAction* a : menu->actions()) names << a->text();
  EXPECT_EQ(names.size(), 4);
  EXPECT_TRUE(names[0].startsWith("Replace"));
  EXPECT_EQ(names[1], "Set bore of L-4 to 70 mm");
  menu->actions()[2]->trigger();
  EXPECT_EQ(given("L-4", "bore"), "60 mm");
  doc().redo();
  EXPECT_EQ(given("L-4", "bore"), "70 mm");
}

TEST_F(Layout, theTakeOffCompletesReadsBackAndItsPiecesAreDragged) {
  openSample("kestrel-fell.lconduit");
  doc().select({id("L-5")});
  net().card().focusField("take-off");
  auto* edit = qobject_cast<TakeOffEdit*>(window->findChild<QLineEdit*>("given.take-off"));
  ASSERT_NE(edit, nullptr);
  QTest::keyClicks(edit, "12.4 elb");
  EXPECT_GT(edit->completions()->model()->rowCount(), 0);
  emit edit->completions()->activated(edit->completions()->model()->index(0, 0).data().toString());
  EXPECT_EQ(edit->text(), "12.4 elbow ");
  QTest::keyClicks(edit, "3.1 up gate");
  auto* back = window->findChild<QLabel*>("takeoff.readback");
  EXPECT_TRUE(back->text().startsWith("15.5")) << back->text().toStdString();
  QTest::keyClick(edit, Qt::Key_Return);
  settle();
  auto takeOff = [&] { return *doc().network().at(id("L-5")).text("take-off"); };
  EXPECT_EQ(takeOff(), "12.4 elbow 3.1 up gate");
  EXPECT_EQ(given("L-5", "length"), "") << "the pieces say how long it is";
  auto* pieces = window->findChild<PieceStrip*>("pieces");
  ASSERT_EQ(pieces->takeOff().pieces.size(), 4u);
  // The gate to the front.
  const QPoint gate = pieces->boxOf(3).center().toPoint(),
               front = pieces->boxOf(0).center().toPoint() - QPoint(12, 0);
  QTest::mousePress(pieces, Qt::LeftButton, {}, gate);
  QTest::mouseMove(pieces, front);
  QTest::mouseRelease(pieces, Qt::LeftButton, {}, front);
  settle();
  QApplication::processEvents();
  EXPECT_EQ(takeOff(), "gate  12.4  elbow  3.1 up");
  // A word that cannot be read takes nothing and says what it could have been.
  net().card().focusField("take-off");
  edit = qobject_cast<TakeOffEdit*>(window->findChild<QLineEdit*>("given.take-off"));
  edit->selectAll();
  QTest::keyClicks(edit, "12 elbwo 3 up");
  EXPECT_TRUE(window->findChild<QLabel*>("takeoff.readback")->text().contains("elbow"));
  QTest::keyClick(edit, Qt::Key_Return);
  EXPECT_EQ(takeOff(), "gate  12.4  elbow  3.1 up");
  // A device in it becomes an element.
  edit->selectAll();
  QTest::keyClicks(edit, "6 check 4");
  if (QWidget* offered = QApplication::activePopupWidget()) offered->hide();
  QTest::keyClick(edit, Qt::Key_Return);
  settle();
  EXPECT_GE(count("check valve"), 1u);
  EXPECT_TRUE(doc().solved()->solution.summary.usable());
}

TEST_F(Layout, stockIsEditedUndoneAndKept) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(2);
  StockPage& page = net().stockPage();
  page.showEntry("pipes.csv", "ASME B36.10M 2-1/2 40");
  auto* model = page.table()->model();
  const int row = page.table()->currentIndex().row();
  ASSERT_GE(row, 0);
  int bore = -1;
  for (int c = 0; c < model->columnCount(); ++c)
    if (model->headerData(c, Qt::Horizontal).toString() == "bore mm") bore = c;
  const auto flow = [&] { return *doc().solved()->solution.branch(id("L-39"), 0).flow_m3s; };
  const double shipped = flow();
  ASSERT_TRUE(model->setData(model->index(row, bore), "50"));
  settle();
  EXPECT_LT(flow(), shipped) << "whatever names the size follows it";
  EXPECT_EQ(model->index(row, 0).data().toString(), "this model");
  EXPECT_FALSE(model->setData(model->index(row, bore), "wide"));
  EXPECT_TRUE(said().contains("bore_mm"));
  doc().undo();
  settle();
  EXPECT_NEAR(flow(), shipped, 1e-9 * shipped);
  // A new entry, used, kept in the engineer's own files, and there in the next window.
  page.showEntry("fittings.csv", "elbow");
  QTest::mouseClick(window->findChild<QToolButton*>("stock.add"), Qt::LeftButton);
  ASSERT_NE(doc().stock()->fitting("elbow-own"), nullptr);
  QTest::mouseClick(window->findChild<QToolButton*>("stock.keep"), Qt::LeftButton);
  EXPECT_TRUE(QFile::exists(Document::ownStockFolder() + "/fittings.csv"));
  Document another;
  ASSERT_NE(another.stock()->fitting("elbow-own"), nullptr);
  EXPECT_EQ(another.stock()->fitting("elbow-own")->origin, Origin::own);
  QTest::mouseClick(window->findChild<QToolButton*>("stock.drop"), Qt::LeftButton);  // the model's
  page.showEntry("fittings.csv", "elbow-own");
  QTest::mouseClick(window->findChild<QToolButton*>("stock.drop"), Qt::LeftButton);  // one's own
  EXPECT_FALSE(QFile::exists(Document::ownStockFolder() + "/fittings.csv"));
  page.showEntry("fittings.csv", "elbow");
  QTest::mouseClick(window->findChild<QToolButton*>("stock.drop"), Qt::LeftButton);
  EXPECT_TRUE(said().contains("built-in"));
}

TEST_F(Layout, aPictureIsPlacedBroughtToScaleAndTravels) {
  QImage image(200, 100, QImage::Format_RGB32);
  image.fill(Qt::darkGreen);
  const QString file = dir.filePath("site.png");
  ASSERT_TRUE(image.save(file));
  net().placePicture(file);
  EXPECT_EQ(doc().selected(), noId) << "it is read by the way";
  ASSERT_TRUE(QTest::qWaitFor([&] { return doc().selected() != noId; }, 10000));
  const Id picture = doc().selected();
  EXPECT_EQ(doc().network().enclosed().files.size(), 1u)
      << "before the model has a file the picture travels inside";
  const double perMetre = plan().toScreen({1, 0}).x() - plan().toScreen({0, 0}).x();
  const double wide = doc().network().at(picture).given("width")->value * perMetre;  // px
  run("picture.scale");
  click({300, 200});
  click({500, 200});
  type("80");
  key(Qt::Key_Return);
  const double width = doc().network().at(picture).given("width")->value;
  // What was 200 px apart is now 80 m.
  EXPECT_NEAR(width, 80.0 / 200 * wide, 0.02 * width) << perMetre;
  EXPECT_EQ(plan().grab().toImage().pixelColor(plan().rect().center()) == QColor(Qt::darkGreen), false)
      << "drawn faded";
  const std::string text = writeModel(doc().network());
  const auto again = readDrawn(text, doc().stock());
  ASSERT_TRUE(again);
  EXPECT_EQ(again->enclosed().files, doc().network().enclosed().files);
  // Beside a saved model: by its path from there.
  ASSERT_TRUE(doc().save(dir.filePath("model.lconduit")));
  doc().select({});
  net().placePicture(file);
  ASSERT_TRUE(QTest::qWaitFor([&] { return doc().selected() != noId; }, 10000));
  EXPECT_EQ(*doc().network().at(doc().selected()).text("file"), "site.png");
  run("picture.inside");
  EXPECT_TRUE(doc().network().enclosed().files.contains("site.png"));
  net().placePicture(dir.filePath("nothing.png"));
  EXPECT_TRUE(QTest::qWaitFor([&] { return said().contains("cannot be read"); }, 10000));
  // What was begun for one model is not put into the next.
  net().placePicture(file);
  doc().startNew();
  EXPECT_TRUE(QTest::qWaitFor([&] { return said().contains("another model was opened"); }, 10000));
  EXPECT_EQ(doc().network().count(), 0u);
}

TEST_F(Layout, remarksAndDimensionsStandOnTheDrawingOnly) {
  openSample("millpond.lconduit");
  const double before = *doc().solved()->solution.branch(id("L-4"), 0).flow_m3s;
  doc().select({});
  type("m");
  click({120, 20});
  type("Check on site: ground water");
  key(Qt::Key_Return);
  EXPECT_EQ(*doc().network().at(id("M-1")).text("text"), "Check on site: ground water");
  doc().select({});
  type("d");
  click(at(id("Lower trough")));
  click(at(id("Upper trough")));
  EXPECT_EQ(count("dimension"), 1u);
  settle();
  EXPECT_EQ(*doc().solved()->solution.branch(id("L-4"), 0).flow_m3s, before);
  EXPECT_EQ(plan().hit(plan().toScreen(doc().network().at(id("M-1")).at) + QPointF(6, 6)), id("M-1"));
}

TEST_F(Layout, lassoRouteAndAlike) {
  openSample("kestrel-fell.lconduit");
  run("select.route");
  const auto route = doc().selection();
  EXPECT_TRUE(std::find(route.begin(), route.end(), id("Tarn")) != route.end() ||
              std::find(route.begin(), route.end(), id("P-1")) != route.end());
  EXPECT_GT(route.size(), 8u);
  run("names.route");
  doc().undo();
  doc().select({id("V-1")});
  run("select.alike");
  EXPECT_EQ(doc().selection().size(), 3u) << "the three reducing valves";
  // A lasso about the tarn alone.
  const QPoint tarn = at(id("Tarn"));
  const QPoint loop[] = {tarn + QPoint(-40, -40), tarn + QPoint(30, -40), tarn + QPoint(30, 30),
                         tarn + QPoint(-40, 30)};
  auto send = [&](QEvent::Type kind, QPoint where) {
    QMouseEvent e(kind, where, plan().mapToGlobal(where),
                  kind == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton,
                  kind == QEvent::MouseButtonRelease ? Qt::NoButton : Qt::LeftButton, Qt::AltModifier);
    QApplication::sendEvent(&plan(), &e);
  };
  send(QEvent::MouseButtonPress, loop[0]);
  for (const QPoint& p : loop) send(QEvent::MouseMove, p);
  send(QEvent::MouseButtonRelease, loop[3]);
  EXPECT_TRUE(doc().isSelected(id("Tarn")));
  EXPECT_FALSE(doc().isSelected(id("P-1")));
}

TEST_F(Layout, hundredsOfRandomStepsThroughTheWindow) {
  openSample("millpond.lconduit");
  test::Chance c{11};
  std::vector<std::string> texts{writeModel(doc().network())};
  const char* letters[] = {"l", "t", "p", "v", "r", "n", "z", "x", "m", "s"};
  const char* typed[] = {"7", "12.4 2 up", "45°", "3 down"};
  while (texts.size() < 250) {
    const QPoint where(c.below(plan().width() - 40) + 20, c.below(plan().height() - 40) + 20);
    const auto step = doc().history().stamp();
    plan().setFocus();
    switch (c.below(9)) {
      case 0:
      case 1: type(letters[c.below(10)]); break;
      case 2:
      case 3:
      case 4: click(where, c.oneIn(4) ? Qt::ShiftModifier : Qt::NoModifier); break;
      case 5: type(typed[c.below(4)]), key(Qt::Key_Return); break;
      case 6: key(c.oneIn(2) ? Qt::Key_Escape : Qt::Key_PageUp); break;
      case 7:
        if (c.oneIn(3)) key(Qt::Key_Delete);
        break;
      case 8: run(c.oneIn(2) ? "edit.reverse" : "arrange.level"); break;
    }
    if (doc().history().stamp() != step) {
      // A click may make two steps (a pipe is split, then joined); each is a state of its own.
      while (texts.size() < doc().history().at() + 1) texts.emplace_back();
      texts.resize(doc().history().at() + 1);
      texts.back() = writeModel(doc().network());
    }
  }
  key(Qt::Key_Escape);
  for (std::size_t i = texts.size(); i-- > 0;) {
    doc().jumpTo(i);
    if (!texts[i].empty()) ASSERT_EQ(writeModel(doc().network()), texts[i]) << "step " << i;
  }
  while (doc().history().canRedo()) doc().redo();
  EXPECT_EQ(writeModel(doc().network()), texts.back());
  settle();
}

}  // namespace
}  // namespace conduit::desktop
