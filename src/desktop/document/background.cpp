#include "document/background.h"

#include "jobs/pool.h"

namespace conduit::desktop {

void Background::leave() {
  ++run_;
  running_ = false;
  thread_.request_stop();
  if (thread_.joinable()) thread_.join();
}

void Background::begin(Work work) {
  leave();
  running_ = true;
  thread_ = std::jthread([this, run = run_, work = std::move(work)](std::stop_token stop) {
    const Post post = [this, run](std::function<void()> what) {
      QMetaObject::invokeMethod(
          this,
          [this, run, what = std::move(what)] {
            if (run == run_) what();
          },
          Qt::QueuedConnection);
    };
    try {
      work(post, stop);
    } catch (...) {
      post([this, why = QString::fromStdString(jobs::wordsOfException())] { emit failed(why); });
    }
    post([this] {
      running_ = false;
      emit ended();
    });
  });
}

}  // namespace conduit::desktop
