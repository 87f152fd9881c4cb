#include "document/background.h"

#include <QVariant>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

#include "jobs/pool.h"

namespace conduit::desktop {

// What a Background and its thread share. The thread outlives the Background by as long as its piece takes.
struct Background::Lane {
  struct Piece {
    Work work;
    int begun = 0, left = 0;
    std::stop_source stop;
  };
  std::mutex mutex;
  std::condition_variable wake;
  Background* owner = nullptr;  // null once it is gone
  Old old = Old::dropped;
  std::deque<Piece> waiting;
  std::stop_source now;  // of the piece that goes on
  int begun = 0, left = 0;
  bool busy = false, hasThread = false;

  // Whether what a piece says still counts.
  [[nodiscard]] bool counts(int itsBegun, int itsLeft) const {
    return owner && itsLeft == left && (old == Old::told || itsBegun == begun);
  }
  // Asks what goes on to end and drops what waits.
  void drop() {
    waiting.clear();
    now.request_stop();
  }
  static void loop(const std::shared_ptr<Lane>& lane);
};

namespace {

// Threads that have not ended. It is never taken down: the last of them may outlive `main`.
struct Census {
  std::mutex mutex;
  std::condition_variable fewer;
  std::size_t threads = 0;
};
Census& census() {
  static Census* const one = new Census;
  return *one;
}

}  // namespace

void Background::Lane::loop(const std::shared_ptr<Lane>& lane) {
  for (;;) {
    Piece piece;
    {
      std::unique_lock lock(lane->mutex);
      lane->wake.wait(lock, [&] { return !lane->owner || !lane->waiting.empty(); });
      if (!lane->owner) return;
      piece = std::move(lane->waiting.front());
      lane->waiting.pop_front();
      lane->now = piece.stop;
      lane->busy = true;
    }
    const auto send = [lane, begun = piece.begun, left = piece.left](std::function<void()> what) {
      const std::lock_guard lock(lane->mutex);
      if (!lane->counts(begun, left)) return;
      QMetaObject::invokeMethod(
          lane->owner,
          [lane, begun, left, what = std::move(what)] {
            // On the owner's thread, where alone these are changed.
            if (lane->counts(begun, left)) what();
          },
          Qt::QueuedConnection);
    };
    try {
      piece.work(send, piece.stop.get_token());
    } catch (...) {
      // A mistake of ours is told whether or not anybody still wants the piece.
      const QString why = QString::fromStdString(jobs::wordsOfException());
      const std::lock_guard lock(lane->mutex);
      if (lane->owner)
        QMetaObject::invokeMethod(
            lane->owner, [lane, why] { emit lane->owner->failed(why); }, Qt::QueuedConnection);
    }
    piece.work = nullptr;  // what it holds goes before it is said to have ended
    {
      const std::lock_guard lock(lane->mutex);
      lane->busy = false;
    }
    send([lane] {
      {
        const std::lock_guard lock(lane->mutex);
        if (lane->busy || !lane->waiting.empty()) return;
      }
      lane->owner->running_ = false;
      emit lane->owner->ended();
    });
  }
}

Background::Background(const QString& name, QObject* parent, Old old)
    : QObject(parent), name_(name), lane_(std::make_shared<Lane>()) {
  lane_->owner = this;
  lane_->old = old;
}

Background::~Background() {
  {
    const std::lock_guard lock(lane_->mutex);
    lane_->owner = nullptr;
    lane_->drop();
  }
  lane_->wake.notify_all();
}

void Background::put(Work work) {
  // A test's own fault in place of ours.
  if (const QVariant fault = property("fault"); fault.isValid())
    work = [why = fault.toString().toStdString()](const Post&, const std::stop_token&) {
      throw std::runtime_error(why);
    };
  running_ = true;
  bool starts = false;
  {
    const std::lock_guard lock(lane_->mutex);
    lane_->waiting.push_back({std::move(work), lane_->begun, lane_->left, {}});
    starts = !std::exchange(lane_->hasThread, true);
  }
  lane_->wake.notify_all();
  if (!starts) return;
  Census& c = census();
  {
    const std::lock_guard lock(c.mutex);
    ++c.threads;
  }
  const auto gone = [&c] {
    const std::lock_guard lock(c.mutex);
    --c.threads;
    c.fewer.notify_all();
  };
  try {
    std::thread([lane = lane_, gone]() mutable {
      Lane::loop(lane);
      lane.reset();
      gone();
    }).detach();
  } catch (const std::system_error& fault) {
    // No thread is to be had: tried again with the next piece.
    gone();
    const std::lock_guard lock(lane_->mutex);
    lane_->waiting.clear(), lane_->hasThread = false;
    QMetaObject::invokeMethod(
        this,
        [this, why = QString(fault.what())] {
          running_ = false;
          emit failed(why);
          emit ended();
        },
        Qt::QueuedConnection);
  }
}

void Background::begin(Work work) {
  {
    const std::lock_guard lock(lane_->mutex);
    ++lane_->begun;
    lane_->drop();
  }
  put(std::move(work));
}

void Background::add(Work work) { put(std::move(work)); }

void Background::stop() {
  const std::lock_guard lock(lane_->mutex);
  lane_->now.request_stop();
  for (Lane::Piece& p : lane_->waiting) p.stop.request_stop();
}

void Background::leave() {
  running_ = false;
  const std::lock_guard lock(lane_->mutex);
  ++lane_->left;
  lane_->drop();
}

bool Background::endAll(std::chrono::milliseconds most) {
  Census& c = census();
  std::unique_lock lock(c.mutex);
  return c.fewer.wait_for(lock, most, [&] { return c.threads == 0; });
}

}  // namespace conduit::desktop
