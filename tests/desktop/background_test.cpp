// Threads of the window: one home, whose faults are told and which nobody waits for.
#include <QLabel>
#include <QSignalSpy>
#include <QToolButton>
#include <atomic>
#include <filesystem>
#include <fstream>
#include <future>
#include <regex>

#include "card/card.h"
#include "desks/cases/cases_desk.h"
#include "desks/cases/sweep_pane.h"
#include "desks/pumps/pumps_desk.h"
#include "desks/sizing/sizing_desk.h"
#include "document/background.h"
#include "drawer/findings_page.h"
#include "drawer/import_page.h"
#include "exchange/stock_files.h"
#include "network/edits.h"
#include "window_fixture.h"

namespace conduit::desktop {
namespace backgroundtest {

using Post = Background::Post;

bool wait(const std::function<bool()>& until) { return QTest::qWaitFor(until, 20000); }

// Holds its piece, whatever is asked of it, until it is let go.
struct Held {
  std::promise<void> letGo, began;
  std::atomic<bool> over = false;
  Background::Work work(std::vector<int>& told, int number) {
    return [&, number](const Post& post, const std::stop_token&) {
      began.set_value();
      letGo.get_future().wait();
      post([&told, number] { told.push_back(number); });
      over = true;
    };
  }
};

TEST(Background, nothingWaitsForAPieceThatDoesNotEnd) {
  std::vector<int> told;
  Held first, second, third;
  Background work("W");
  work.begin(first.work(told, 1));
  first.began.get_future().wait();
  work.begin(second.work(told, 2));  // returns
  EXPECT_FALSE(first.over);
  EXPECT_TRUE(work.running());
  first.letGo.set_value();
  second.began.get_future().wait();
  EXPECT_TRUE(first.over) << "one at a time";
  second.letGo.set_value();
  ASSERT_TRUE(wait([&] { return !work.running(); }));
  EXPECT_EQ(told, std::vector{2}) << "what was overtaken is dropped";
  work.begin(third.work(told, 3));
  third.began.get_future().wait();
  work.leave();
  EXPECT_FALSE(work.running());
  EXPECT_FALSE(third.over);
  third.letGo.set_value();
  ASSERT_TRUE(wait([&] { return third.over.load(); }));
  QTest::qWait(1);
  EXPECT_EQ(told.size(), 1u);
}

TEST(Background, outlivesItsOwnerAndTellsItNothing) {
  std::vector<int> told;
  Held held;
  {
    Background work("W");
    work.begin(held.work(told, 1));
    held.began.get_future().wait();
  }
  EXPECT_FALSE(held.over);
  held.letGo.set_value();
  ASSERT_TRUE(wait([&] { return held.over.load(); }));
  QTest::qWait(1);
  EXPECT_TRUE(told.empty());
}

TEST(Background, piecesThatAreAddedFollowEachOther) {
  std::vector<int> told;
  int ended = 0;
  Background work("W");
  QObject::connect(&work, &Background::ended, &work, [&] { ++ended; });
  for (int i = 0; i < 20; ++i)
    work.add(
        [&told, i](const Post& post, const std::stop_token&) { post([&told, i] { told.push_back(i); }); });
  ASSERT_TRUE(wait([&] { return !work.running(); }));
  EXPECT_EQ(told.size(), 20u);
  EXPECT_TRUE(std::is_sorted(told.begin(), told.end()));
  EXPECT_GE(ended, 1);
}

TEST(Background, stopsAndKeepsWhatItHas) {
  std::vector<int> told;
  std::promise<void> began;
  Background work("W");
  work.begin([&](const Post& post, const std::stop_token& stop) {
    began.set_value();
    while (!stop.stop_requested()) std::this_thread::yield();
    post([&] { told.push_back(1); });
  });
  began.get_future().wait();
  work.stop();
  ASSERT_TRUE(wait([&] { return !work.running(); }));
  EXPECT_EQ(told.size(), 1u);
}

TEST(Background, aFaultIsToldAndTheNextPieceRuns) {
  std::vector<QString> faults;
  std::vector<int> told;
  Background work("W");
  QObject::connect(&work, &Background::failed, &work, [&](const QString& why) { faults.push_back(why); });
  work.begin([](const Post&, const std::stop_token&) { throw std::bad_alloc(); });
  // Told although another has begun meanwhile.
  work.begin([&](const Post& post, const std::stop_token&) { post([&] { told.push_back(1); }); });
  ASSERT_TRUE(wait([&] { return !work.running(); }));
  EXPECT_EQ(told.size(), 1u);
  work.begin([](const Post&, const std::stop_token&) { throw 3; });
  ASSERT_TRUE(wait([&] { return !work.running(); }));
  ASSERT_FALSE(faults.empty());
  EXPECT_EQ(faults.back(), "unknown error");
}

// No thread of the desktop is made anywhere else.
TEST(Background, isTheOnlyHomeOfThreads) {
  const std::regex made(R"(std::j?thread\b[ ({>]|QThreadPool|QtConcurrent|\bQThread\b|std::async)");
  std::size_t read = 0;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(SOURCE_DIR "/src/desktop")) {
    if (!entry.is_regular_file() || entry.path().filename() == "background.cpp") continue;
    ++read;
    std::ifstream in(entry.path());
    for (std::string line; std::getline(in, line);)
      EXPECT_FALSE(std::regex_search(line, made)) << entry.path() << ": " << line;
  }
  EXPECT_GT(read, 100u);
}

// A fault in every piece of work there is: told by its name, and the window goes on.
class Faults : public WindowTest {
 protected:
  void bring(Qt::Key key) { QTest::keyClick(window.get(), key, Qt::AltModifier); }
};

TEST_F(Faults, areToldAndTheWindowLives) {
  openSample("kestrel-fell.lconduit");
  QTemporaryDir dir;
  QImage image(20, 10, QImage::Format_RGB32);
  image.fill(Qt::red);
  ASSERT_TRUE(image.save(dir.filePath("site.png")));
  int step = 0;
  std::map<QString, std::function<void()>> triggers{
      {"Solving", [&] { doc().setField(std::vector{jobId}, "title", QString("Step %1").arg(++step)); }},
      {"The sweep",
       [&] {
         bring(Qt::Key_4);
         auto& sweep = window->deskOf<CasesDesk>().sweep();
         sweep.findChild<QLineEdit*>("sweep.vary")->setText("Tarn level");
         sweep.findChild<QLineEdit*>("sweep.over")->setText("311.5 m to 312 m in 2");
         sweep.run();
       }},
      {"The pump study", [&] { bring(Qt::Key_2); }},
      {"The sizing", [&] { bring(Qt::Key_3), window->deskOf<SizingDesk>().search(); }},
      {"The evaluation of sizes",
       [&] { bring(Qt::Key_3), window->deskOf<SizingDesk>().go(SizingDesk::Way::line); }},
      {"The solution of present deliveries",
       [&] {
         bring(Qt::Key_3);
         doc().setField(std::vector{jobId}, "title", QString("Step %1").arg(++step));
       }},
      {"The register of limits",
       [&] {
         bring(Qt::Key_1), net().showDrawer(0);
         net().findChild<QToolButton*>("findings.tab")->click();
         net().findChild<QToolButton*>("limits.tab")->click();
       }},
      {"The search for what could be found",
       [&] {
         bring(Qt::Key_1);
         doc().select({doc().network().byName("J-3")});
         settle();
         auto* number = the<QLabel>("found.pressure");
         number->setFocus();
         QTest::keyClicks(number, "9");
         auto* edit = the<QLineEdit>("type.pressure");
         QTest::keyClicks(edit, " bar");
         QTest::keyClick(edit, Qt::Key_Return);
       }},
      {"The import",
       [&] { net().importTable().openText("name;from;to;length\nX-1;J-3;X-2;5\n", "clipboard"); }},
      {"The reading of the picture", [&] { net().placePicture(dir.filePath("site.png")); }},
      {"The reading of pictures", [&] {
         bring(Qt::Key_1);
         doc().take(addPicture(doc().network(), "inside.png", "no picture", {0, 0}, 50));
         settle();
         (void)plan().grab();
       }}};
  QList<Background*> all = window->findChildren<Background*>();
  all += doc().findChildren<Background*>();
  ASSERT_EQ(all.size(), static_cast<int>(triggers.size()));
  for (Background* work : all) {
    SCOPED_TRACE(work->name().toStdString());
    ASSERT_TRUE(triggers.contains(work->name()));
    ASSERT_TRUE(wait([&] { return !work->running(); }));
    QSignalSpy told(&doc(), &Document::refused);
    const auto said = [&] {
      return std::any_of(told.begin(), told.end(), [&](const QList<QVariant>& words) {
        return words[0].toString().startsWith(work->name() +
                                              " ended by a fault: made here. The model is safe");
      });
    };
    work->setProperty("fault", "made here");
    triggers[work->name()]();
    EXPECT_TRUE(wait(said));
    work->setProperty("fault", QVariant());
    EXPECT_TRUE(wait([&] { return !work->running(); }));
    // The window lives: an edit is solved, and that work is done again.
    const QString title = QString("After %1").arg(work->name());
    ASSERT_TRUE(doc().setField(std::vector{jobId}, "title", title));
    settle();
    EXPECT_EQ(doc().title(), title);
    triggers[work->name()]();
    work->stop();
    EXPECT_TRUE(wait([&] { return !work->running(); }));
    if (net().importTable().isVisible()) net().importTable().leave();
  }
}

}  // namespace backgroundtest
}  // namespace conduit::desktop
