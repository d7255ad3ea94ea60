// A thread that does one thing after the other, and something by itself in between.
#pragma once

#include <chrono>
#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <thread>

namespace mobrin::live {

class Loop {
 public:
  using Clock = std::chrono::steady_clock;
  // `idle` is called when nothing waits and at least as often as it says: it returns when it wants to be called again.
  Loop(std::size_t most, std::function<Clock::time_point()> idle) : most_(most), idle_(std::move(idle)) {
    thread_ = std::thread([this] { run(); });
  }
  ~Loop() { stop(); }
  Loop(const Loop&) = delete;
  Loop& operator=(const Loop&) = delete;

  // False where too much waits already; then `work` is not done.
  bool post(std::function<void()> work) {
    {
      const std::lock_guard held(lock_);
      if (stopping_ || queue_.size() >= most_) return false;
      queue_.push_back(std::move(work));
    }
    more_.notify_one();
    return true;
  }
  // What waits is not done any more; what is being done is waited for.
  void stop() {
    {
      const std::lock_guard held(lock_);
      stopping_ = true;
      queue_.clear();
    }
    more_.notify_one();
    if (thread_.joinable()) thread_.join();
  }

 private:
  void run() {
    Clock::time_point next = idle_();
    for (std::unique_lock held(lock_); !stopping_;) {
      if (queue_.empty() && Clock::now() < next) {
        more_.wait_until(held, next);
        continue;
      }
      if (Clock::now() >= next) {
        held.unlock();
        next = idle_();
        held.lock();
        continue;
      }
      const std::function<void()> work = std::move(queue_.front());
      queue_.pop_front();
      held.unlock();
      work();
      held.lock();
    }
  }

  const std::size_t most_;
  std::function<Clock::time_point()> idle_;
  std::mutex lock_;
  std::condition_variable more_;
  std::deque<std::function<void()>> queue_;
  bool stopping_ = false;
  std::thread thread_;
};

}  // namespace mobrin::live
