// The one home of all threads of the window. What takes long is a piece of work of some `Background`: it
// works on copies, and what it posts is done on the window's thread. A fault in it is caught and told, the
// window and the model live on; nobody waits for a piece that is no longer wanted.
//
//   background.begin([=](const Background::Post& post, std::stop_token stop) {
//     auto found = search(task, stop);
//     post([this, found] { show(found); });
//   });
//
// A piece may use `this` in what it posts, and nowhere else.
#pragma once

#include <QObject>
#include <chrono>
#include <functional>
#include <memory>
#include <stop_token>

namespace conduit::desktop {

class Background : public QObject {
  Q_OBJECT
 public:
  using Post = std::function<void(std::function<void()>)>;
  using Work = std::function<void(const Post&, std::stop_token)>;
  /// What becomes of what a piece posted and is not done yet, when another piece begins.
  enum class Old { dropped, told };
  /// `name` is said with a fault: "Sweep".
  explicit Background(const QString& name, QObject* parent = nullptr, Old old = Old::dropped);
  ~Background() override;
  /// Asks what was going on to end, and begins as soon as it has. What it still posts is dropped, but by
  /// `Old::told`.
  void begin(Work work);
  /// After what goes on and waits.
  void add(Work work);
  /// Asks it to come to its end; what it has it still posts.
  void stop();
  /// Asks it to end and forgets what it would post. Waits for nothing.
  void leave();
  [[nodiscard]] bool running() const { return running_; }
  [[nodiscard]] const QString& name() const { return name_; }
  /// Before the program ends, once every Background is gone: waits for their threads, at most so long. False
  /// where one goes on.
  [[nodiscard]] static bool endAll(std::chrono::milliseconds most);

 signals:
  void failed(const QString& why);
  /// Nothing goes on or waits any more.
  void ended();

 private:
  struct Lane;
  void put(Work work);
  const QString name_;
  std::shared_ptr<Lane> lane_;
  bool running_ = false;
};

}  // namespace conduit::desktop
