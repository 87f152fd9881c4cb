// A stop token that asks to stop after so many seconds.
//
//   const Alarm alarm(stop, 60.0);
//   work(alarm.token());
//   if (alarm.rang()) ...  // not everything was done
#pragma once

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <functional>
#include <mutex>
#include <stop_token>
#include <thread>

namespace conduit {

/// Passes on what `stop` asks, and asks itself after `seconds` (0 or less: never).
class Alarm {
 public:
  Alarm(const std::stop_token& stop, double seconds) : passOn_(stop, [this] { source_.request_stop(); }) {
    if (seconds <= 0) return;
    clock_ = std::jthread([this, seconds](std::stop_token off) {
      std::unique_lock lock(mutex_);
      (void)wake_.wait_for(lock, off, std::chrono::duration<double>(seconds), [] { return false; });
      if (off.stop_requested()) return;
      rang_ = true;
      source_.request_stop();
    });
  }
  [[nodiscard]] std::stop_token token() const { return source_.get_token(); }
  [[nodiscard]] bool rang() const { return rang_; }

 private:
  std::stop_source source_;
  std::atomic<bool> rang_ = false;
  std::mutex mutex_;
  std::condition_variable_any wake_;
  std::stop_callback<std::function<void()>> passOn_;
  std::jthread clock_;
};

}  // namespace conduit
