// Nothing lies on anything else: labels, symbols, signs of findings and lines, as they were painted, over the
// samples at five zooms, with the drawer open and shut, in two sizes of window. (The whole is run at a scale
// of 2.0 as well.)
#include <gtest/gtest.h>

#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <iterator>

#include "layout_fixture.h"
#include "levels/levels_view.h"
#include "network/assume.h"
#include "parts/registry.h"

namespace conduit::desktop {
namespace {

double gapTo(const QRectF& box, const QLineF& line) {  // 0: the line crosses or touches the box
  if (box.contains(line.p1()) || box.contains(line.p2())) return 0;
  for (const QLineF& edge :
       {QLineF(box.topLeft(), box.topRight()), QLineF(box.topRight(), box.bottomRight()),
        QLineF(box.bottomRight(), box.bottomLeft()), QLineF(box.bottomLeft(), box.topLeft())})
    if (line.intersects(edge, nullptr) == QLineF::BoundedIntersection) return 0;
  double least = 1e9;
  for (double t = 0; t <= 1.0001; t += 1.0 / 64) {
    const QPointF q = line.pointAt(t);
    least = std::min(least, std::hypot(std::max({box.left() - q.x(), 0.0, q.x() - box.right()}),
                                       std::max({box.top() - q.y(), 0.0, q.y() - box.bottom()})));
  }
  return least;
}

class Overlaps : public Layout, public testing::WithParamInterface<const char*> {
 protected:
  void pairs(const std::vector<QRectF>& a, const std::vector<QRectF>& b, const char* what,
             const std::string& where) {
    for (std::size_t i = 0; i < a.size(); ++i)
      for (std::size_t k = &a == &b ? i + 1 : 0; k < b.size(); ++k) {
        const QRectF both = a[i].intersected(b[k]);
        EXPECT_FALSE(both.width() > 1.01 && both.height() > 1.01)
            << where << ": " << what << " at " << a[i].center().x() << "," << a[i].center().y() << " and "
            << b[k].center().x() << "," << b[k].center().y();
      }
  }
  void look(const std::string& where) {
    plan().grab();
    net().levels().grab();
    const auto& now = plan().painted();
    const QRectF sheet = plan().rect();
    pairs(now.labels, now.labels, "two labels", where);
    pairs(now.labels, now.symbols, "a label and a symbol", where);
    pairs(now.labels, now.marks, "a label and a sign", where);
    std::vector<QRectF> drawn;  // dots may touch
    std::copy_if(now.symbols.begin(), now.symbols.end(), std::back_inserter(drawn),
                 [](const QRectF& box) { return box.width() > 7.5; });
    pairs(drawn, drawn, "two symbols", where);
    for (const QRectF& label : now.labels) {
      EXPECT_TRUE(sheet.contains(label)) << where << ": a label over the edge";
      for (const auto& [line, width] : now.lines)
        EXPECT_GT(gapTo(label, line), width / 2 - 2.01)
            << where << ": a label on a line at " << label.center().x() << "," << label.center().y();
    }
    const auto& levels = net().levels().painted();
    pairs(levels.labels, levels.labels, "two labels of Levels", where);
    pairs(levels.labels, levels.marks, "a label and a tank in Levels", where);
    for (const QRectF& label : levels.labels)
      for (const QLineF& line : levels.lines)
        EXPECT_GT(gapTo(label, line), 0) << where << ": a label of Levels on a line at " << label.center().x()
                                         << "," << label.center().y();
    labels += now.labels.size() + levels.labels.size();
  }
  void zoom(int steps) {
    const QPointF at(plan().width() / 2.0, plan().height() / 2.0);
    QWheelEvent e(at, plan().mapToGlobal(at), {}, {0, 462 * steps}, Qt::NoButton, {}, Qt::NoScrollPhase,
                  false);
    QApplication::sendEvent(&plan(), &e);
  }
  std::size_t labels = 0;
};

TEST_P(Overlaps, areNone) {
  openSample(GetParam());
  for (const QSize& size : {QSize(1280, 800), QSize(1920, 1080)})
    for (const int drawer : {-1, 0}) {
      window->resize(size);
      net().showDrawer(drawer);
      for (int i = 0; i < 3; ++i) QApplication::processEvents();
      for (const int step : {0, 1, 2, -1, -2}) {
        plan().fit();
        zoom(step);
        look(std::string(GetParam()) + " " + std::to_string(size.width()) + (drawer < 0 ? " shut" : " open") +
             " zoom " + std::to_string(step));
      }
    }
  EXPECT_GT(labels, 60u) << "there is something to read";
}

INSTANTIATE_TEST_SUITE_P(Samples, Overlaps, testing::Values("kestrel-fell.lconduit", "millpond.lconduit"));

// Four devices of the sample that stand close together are four, with the drawer open too; what has to give
// way is drawn beside its place, and can be clicked there.
TEST_F(Overlaps, whatStandsCloseIsDrawnApartAndStaysWhereItIs) {
  openSample("kestrel-fell.lconduit");
  net().showDrawer(0);
  QApplication::processEvents();
  plan().grab();
  std::vector<Id> seen;
  for (const QRectF& box : plan().painted().symbols) {
    const Id id = plan().hit(box.center());
    ASSERT_NE(id, noId);
    EXPECT_EQ(std::find(seen.begin(), seen.end(), id), seen.end()) << doc().network().at(id).name;
    seen.push_back(id);
  }
  for (const char* name : {"P-1", "P-2", "V-11", "V-12"})
    EXPECT_NE(std::find(seen.begin(), seen.end(), id(name)), seen.end()) << name;
  EXPECT_FALSE(doc().dirty());
}

TEST_F(Overlaps, parallelLinesBowApart) {
  type("l");
  click({200, 200});
  click({600, 200});
  click(at(id("N-1")));
  click(at(id("N-2")));
  key(Qt::Key_Escape);
  settle();
  plan().grab();
  const auto& lines = plan().painted().lines;
  ASSERT_EQ(lines.size(), 3u);
  for (std::size_t i = 0; i < lines.size(); ++i)
    for (std::size_t k = i + 1; k < lines.size(); ++k)
      EXPECT_GT(std::abs(lines[i].first.center().y() - lines[k].first.center().y()),
                (lines[i].second + lines[k].second) / 2 + 1);
}

// Ten thousand lines fitted: no outlines, no points, warnings gathered with a count.
TEST_F(Overlaps, farAwayLinesAreColoursAndSignsAreGathered) {
  Draft draft{Network()};
  const Part &pipe = *findPart("pipe"), &point = *findPart("point");
  std::vector<Id> grid;
  constexpr int side = 71;
  for (int i = 0; i < side * side; ++i)
    grid.push_back(draft.addNew(point, "N" + std::to_string(i), {}, {10.0 * (i % side), 10.0 * (i / side)}));
  for (int i = 0; i < side * side; ++i) {
    if (i % side + 1 < side) draft.addNew(pipe, "A" + std::to_string(i), {grid[i], grid[i + 1]}, {});
    if (i + side < side * side) draft.addNew(pipe, "B" + std::to_string(i), {grid[i], grid[i + side]}, {});
  }
  draft.add(*findPart("fixed pressure"), "", {grid.front()});
  draft.values(grid.back()).set(findField(point, "outflow")->key, Given{0.2, Basis::direct, "200 L/s"});
  doc().take(
      Edited{"grid", withAssumed(Network(), Edited{"", std::move(draft).finish()}, *doc().stock()).network});
  settle();
  plan().fit();
  plan().grab();
  EXPECT_LE(plan().painted().marks.size(), 60u);
  EXPECT_TRUE(plan().painted().labels.empty());
  const QImage far = plan().grab().toImage();
  int ink = 0, all = 0;
  for (int y = far.height() / 4; y < far.height() * 3 / 4; ++y)
    for (int x = far.width() / 4; x < far.width() * 3 / 4; ++x)
      ++all, ink += far.pixelColor(x, y).lightness() < 70;
  EXPECT_LT(ink, all / 20) << "a black field of outlines";
}

}  // namespace
}  // namespace conduit::desktop
