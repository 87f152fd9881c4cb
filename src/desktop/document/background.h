// Work beside the window: one piece at a time, whose results come back to the window's thread unless another
// piece has been begun since.
//
//   background.begin([=](const Background::Post& post, std::stop_token stop) {
//     auto found = search(task, stop);
//     post([this, found] { show(found); });
//   });
#pragma once

#include <QObject>
#include <functional>
#include <stop_token>
#include <thread>

namespace conduit::desktop {

class Background : public QObject {
  Q_OBJECT
 public:
  using Post = std::function<void(std::function<void()>)>;
  using Work = std::function<void(const Post&, std::stop_token)>;
  explicit Background(QObject* parent = nullptr) : QObject(parent) {}
  ~Background() override { leave(); }
  /// Leaves what was going on and begins anew.
  void begin(Work work);
  /// Asks it to come to its end; what it has it still posts.
  void stop() { thread_.request_stop(); }
  /// Ends it and forgets what it would post.
  void leave();
  [[nodiscard]] bool running() const { return running_; }

 signals:
  void failed(const QString& why);
  void ended();

 private:
  std::jthread thread_;
  int run_ = 0;
  bool running_ = false;
};

}  // namespace conduit::desktop
