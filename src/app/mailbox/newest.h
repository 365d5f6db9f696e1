#pragma once
// Questions that take a while, of which the newest alone matters.

#include <condition_variable>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <stop_token>
#include <thread>
#include <utility>

#include "app/mailbox/mailbox.h"

namespace molten {

/// Answers on a thread of its own; the answer arrives on the interface's. A question that waits gives way to a newer
/// one, and one that is being answered is called off; neither is answered then.
template <class Question, class Answer>
class Newest {
 public:
  using Work = std::function<Answer(const Question&, std::stop_token)>;
  using Answered = std::function<void(const Answer&)>;

  Newest(Work work, Answered answered) : work_(std::move(work)), answered_(std::move(answered)) {
    thread_ = lastingThread(inbox_, [this](std::stop_token stop) { answerAll(stop); });
  }
  ~Newest() { forget(); }

  void ask(Question question) {
    const std::scoped_lock lock(mutex_);
    callOff_.request_stop();
    callOff_ = {};
    ++number_;
    asked_ = std::move(question);
    changed_.notify_all();
  }
  /// What was asked is not answered any more.
  void forget() {
    const std::scoped_lock lock(mutex_);
    callOff_.request_stop();
    ++number_;
    asked_.reset();
  }

 private:
  void answerAll(std::stop_token stop) {
    while (true) {
      std::unique_lock lock(mutex_);
      if (!changed_.wait(lock, stop, [&] { return asked_.has_value(); })) return;
      const Question question = *std::exchange(asked_, std::nullopt);
      const std::uint64_t number = number_;
      const std::stop_token calledOff = callOff_.get_token();
      lock.unlock();
      const auto answer = std::make_shared<const Answer>(work_(question, calledOff));
      inbox_.post([this, number, answer] {
        {
          const std::scoped_lock now(mutex_);
          if (number != number_) return;
        }
        answered_(*answer);
      });
    }
  }

  Work work_;
  Answered answered_;
  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::optional<Question> asked_;
  std::uint64_t number_ = 0;  ///< of the newest question
  std::stop_source callOff_;
  Mailbox inbox_;
  std::jthread thread_;  // last: it ends before the rest goes
};

}  // namespace molten
