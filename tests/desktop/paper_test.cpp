// What stands on the drawing beside the network, and how lines above one another are told apart.
#include <gtest/gtest.h>

#include <QBuffer>
#include <QClipboard>
#include <QComboBox>
#include <QPainter>
#include <QPdfWriter>
#include <QRegularExpression>
#include <QScrollBar>
#include <QTableView>
#include <QTest>

#include "card/card.h"
#include "drawer/ledger.h"
#include "exchange/model_file.h"
#include "layout_fixture.h"
#include "levels/levels_view.h"
#include "network/put.h"
#include "parts/registry.h"
#include "plan/picture_store.h"
#include "solve/random_network.h"

namespace conduit::desktop {
namespace {

TEST(Pictures, everySortIsReadAndABrokenOneSaysWhy) {
  QByteArray png;
  {
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    QImage image(30, 20, QImage::Format_RGB32);
    image.fill(Qt::red);
    image.save(&buffer, "PNG");
  }
  QString why;
  EXPECT_EQ(readPicture(png, 1, &why).size(), QSize(30, 20));
  const QByteArray svg =
      "<svg xmlns='http://www.w3.org/2000/svg' width='40' height='20'><rect width='40' height='20' "
      "fill='#00f'/></svg>";
  const QImage drawn = readPicture(svg, 1, &why);
  EXPECT_EQ(drawn.width(), 2 * drawn.height());
  EXPECT_EQ(drawn.pixelColor(drawn.width() / 2, drawn.height() / 2), QColor(Qt::blue));
  QByteArray pdf;
  {
    QBuffer buffer(&pdf);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setPageSize(QPageSize(QPageSize::A4));
    QPainter p(&writer);
    p.fillRect(0, 0, 100000, 100000, Qt::green);
    writer.newPage();
    p.fillRect(0, 0, 100000, 100000, Qt::yellow);
  }
  const QImage first = readPicture(pdf, 1, &why), second = readPicture(pdf, 2, &why);
  ASSERT_FALSE(first.isNull()) << why.toStdString();
  EXPECT_NEAR(static_cast<double>(first.height()) / first.width(), std::sqrt(2.0), 0.01) << "A4";
  EXPECT_EQ(first.pixelColor(first.width() / 2, first.height() / 2), QColor(Qt::green));
  EXPECT_EQ(second.pixelColor(second.width() / 2, second.height() / 2), QColor(Qt::yellow));
  EXPECT_TRUE(readPicture(pdf, 3, &why).isNull());
  EXPECT_TRUE(why.contains("2 pages"));
  for (const QByteArray& broken : {QByteArray("%PDF-1.4 nothing"), QByteArray("<svg broken"),
                                   QByteArray("not a picture"), QByteArray()}) {
    why.clear();
    EXPECT_TRUE(readPicture(broken, 1, &why).isNull());
    EXPECT_FALSE(why.isEmpty()) << broken.toStdString();
  }
}

class Paper : public Layout {};

TEST_F(Paper, risersAndStackedLinesArePickedApart) {
  type("n");
  click({200, 200});
  type("5");
  key(Qt::Key_Return);
  const Id foot = doc().selected();
  // A riser: the same place on the plan, 6 m up; and two lines between the same two places.
  Draft draft(doc().network());
  const Spot here = doc().network().at(foot).at;
  const Id head = draft.addPoint("Head", here), far = draft.addPoint("Far", {here.x + 60, here.y});
  const std::string_view height = findField(*findPart("point"), "height")->key;
  draft.values(head).set(height, metresGiven(11));
  draft.values(far).set(height, metresGiven(5));
  const Id riser = draft.add(*findPart("pipe"), "Riser", {foot, head});
  const Id one = draft.add(*findPart("pipe"), "One", {foot, far}),
           two = draft.add(*findPart("pipe"), "Two", {foot, far});
  doc().take(Edited{"stack", std::move(draft).finish()});
  doc().select({});
  settle();
  const QPointF a = plan().toScreen(here), b = plan().toScreen({here.x + 60, here.y}), mid = (a + b) / 2;
  EXPECT_EQ(plan().hit(mid), one);
  bool beside = false;
  for (const double off : {-9.0, -8.0, 8.0, 9.0}) beside = beside || plan().hit(mid + QPointF(0, off)) == two;
  EXPECT_TRUE(beside) << "the second lies beside the first";
  EXPECT_EQ(plan().hit(a + QPointF(-16, -18)), riser) << "the ring beside the point";
}

TEST_F(Paper, whatIsIncompleteShowsInPlanLevelsAndLedger) {
  openSample("kestrel-fell.lconduit");
  const Id pipe[] = {id("L-5")};
  doc().setField(pipe, "size", "");
  settle();
  EXPECT_FALSE(net().levels().profile().stations.empty())
      << "heights stay in sight while it does not balance";
  net().showDrawer(1);
  QApplication::processEvents();
  auto* model = net().ledger().model();
  int incomplete = 0;
  for (int r = 0; r < model->rowCount(); ++r)
    if (model->incomplete(r)) {
      ++incomplete;
      EXPECT_TRUE(model->index(r, 0).data().toString().startsWith("▲"));
      EXPECT_TRUE(model->index(r, 0).data(Qt::ToolTipRole).toString().contains("bore"));
    }
  EXPECT_EQ(incomplete, 1);
  doc().undo();
  settle();
  for (int r = 0; r < model->rowCount(); ++r) EXPECT_FALSE(model->incomplete(r));
}

TEST_F(Paper, copiesTravelThroughTheClipboardIntoAnotherWindow) {
  openSample("millpond.lconduit");
  doc().select({id("P-1")});
  run("edit.copy");
  const QString clip = QApplication::clipboard()->text();
  EXPECT_TRUE(clip.contains("level-conduit"));
  doc().startNew();
  settle();
  plan().setFocus();
  run("edit.paste");
  EXPECT_NE(id("P-1"), noId);
  run("edit.paste");
  EXPECT_EQ(count("pump"), 2u);
  QApplication::clipboard()->setText(clip.left(clip.size() / 2));
  const std::size_t before = doc().network().count();
  run("edit.paste");
  EXPECT_EQ(doc().network().count(), before);
  EXPECT_TRUE(said().contains("JSON")) << said().toStdString();
}

TEST_F(Paper, aPumpIsDescribedOnceAndServesTwice) {
  openSample("kestrel-fell.lconduit");
  doc().select({id("P-1")});
  run("stock.from");
  ASSERT_NE(doc().stock()->item("pump", "P-1"), nullptr);
  const auto flow = [&](const char* name) { return *doc().solved()->solution.branch(id(name), 0).flow_m3s; };
  const double before = flow("P-2");
  const Id second[] = {id("P-2")};
  doc().setField(second, "curve", "");
  doc().setField(second, "rated speed", "");
  doc().setField(second, "stock item", "P-1");
  settle();
  ASSERT_TRUE(doc().solved()->solution.summary.usable());
  EXPECT_NEAR(flow("P-2"), before, 1e-8 * before) << "the two had the same curve";
  const auto again = readDrawn(writeModel(doc().network()), &shippedStock());
  ASSERT_TRUE(again) << "the item travels in the file";
  EXPECT_NE(again->enclosed().stock.item("pump", "P-1"), nullptr);
}

TEST_F(Paper, unitsOfSingleQuantitiesAndServicesOnTheCard) {
  openSample("kestrel-fell.lconduit");
  const Id job[] = {jobId};
  ASSERT_TRUE(doc().setField(job, "own units", "flow gpm; pressure kPa"));
  settle();
  doc().select({id("L-39")});
  QApplication::processEvents();
  EXPECT_TRUE(window->findChild<QLabel*>("found.flow")->text().contains("gpm"));
  EXPECT_TRUE(window->findChild<QLabel*>("found.greatest pressure")->text().contains("kPa g"));
  EXPECT_FALSE(doc().setField(job, "own units", "flow barns"));
  doc().undo();
  settle();
  EXPECT_FALSE(window->findChild<QLabel*>("found.flow")->text().contains("gpm"));
  run("service.new");
  const Id service = doc().selected();
  ASSERT_NE(service, noId);
  EXPECT_EQ(doc().network().at(service).part->key, "service");
  const Id its[] = {service};
  doc().setField(its, "velocity at most", "4 m/s");
  const std::size_t broken = doc().solved()->standing.broken;
  const Id pipe[] = {id("L-39")};
  doc().setField(pipe, "service", QString::fromStdString(doc().network().at(service).name));
  settle();
  EXPECT_EQ(doc().solved()->standing.broken, broken - 1) << "2.6 m/s are kept under the service's 4";
}

// Fifty thousand rows under the hand: where the bar stands is what is seen, in both halves, and sorted is
// sorted.
TEST_F(Paper, theLedgerScrollsThroughFiftyThousandRows) {
  Draft draft{Network()};
  Id last = draft.addPoint("", {0, 0});
  for (int i = 0; i < 50000; ++i) {
    const Id next = draft.addPoint("", {i * 1.0, 0});
    const Id line = draft.add(*findPart("pipe"), "", {last, next});
    // 7919 is prime and no divisor of 50,000: every length from 1 to 50,000 once, in no order.
    const int length = 1 + static_cast<int>(std::int64_t{i} * 7919 % 50000);
    draft.values(line).set("length",
                           Given{static_cast<double>(length), Basis::direct, std::to_string(length) + " m"});
    last = next;
  }
  doc().take(Edited{"long", std::move(draft).finish()});
  settle();
  net().showDrawer(1);
  QApplication::processEvents();
  auto* table = net().ledger().table();
  auto* frozen = window->findChild<QTableView*>("ledger.frozen");
  ASSERT_EQ(table->model()->rowCount(), 50000);
  for (int i = 0; i <= 10; ++i) {
    const int to = table->verticalScrollBar()->maximum() / 10 * i;
    table->verticalScrollBar()->setValue(to);
    QApplication::processEvents();
    EXPECT_EQ(table->rowAt(0), frozen->rowAt(0)) << i;
    EXPECT_EQ(table->rowAt(0), to / table->rowHeight(0));  // the bar counts pixels
  }
  int column = -1;
  for (int c = 0; c < table->model()->columnCount(); ++c)
    if (table->model()->headerData(c, Qt::Horizontal).toString().contains("length", Qt::CaseInsensitive))
      column = column < 0 ? c : column;
  ASSERT_GE(column, 0);
  table->sortByColumn(column, Qt::DescendingOrder);
  for (const int row : {0, 1, 24999, 49999})
    EXPECT_EQ(
        table->model()->index(row, column).data().toString().remove(QRegularExpression("[^0-9.]")).toDouble(),
        50000 - row);
}

}  // namespace
}  // namespace conduit::desktop
