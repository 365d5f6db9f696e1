// Of questions that take a while the newest is answered, on the interface's thread.
#include "app/mailbox/newest.h"

#include <QSignalSpy>
#include <QTest>
#include <QThread>
#include <atomic>

namespace molten {
namespace {

class NewestTest : public ::testing::Test {
 protected:
  /// Answers with the question; 0 takes until it is called off, or let go.
  int work(int question, const std::stop_token& stop) {
    ++begun;
    if (question == 0)
      while (!stop.stop_requested() && !letGo) std::this_thread::yield();
    if (stop.stop_requested()) ++calledOff;
    return question;
  }
  template <class Condition>
  bool until(Condition condition) {
    for (int i = 0; i < 1000 && !condition(); ++i) QTest::qWait(5);
    return condition();
  }

  std::atomic<int> begun = 0, calledOff = 0;
  std::atomic<bool> letGo = false;
  std::vector<int> answers;
  QThread* thread = nullptr;
  std::unique_ptr<Newest<int, int>> newest = std::make_unique<Newest<int, int>>(
      [this](int question, const std::stop_token& stop) { return work(question, stop); },
      [this](int answer) {
        answers.push_back(answer);
        thread = QThread::currentThread();
      });
};

TEST_F(NewestTest, CallsOffWhatIsOvertaken) {
  newest->ask(0);
  ASSERT_TRUE(until([&] { return begun == 1; }));
  // One waits, and gives way without having begun.
  newest->ask(1);
  newest->ask(2);
  ASSERT_TRUE(until([&] { return !answers.empty(); }));
  EXPECT_EQ(answers.back(), 2);
  EXPECT_EQ(calledOff, 1);
  EXPECT_EQ(thread, QThread::currentThread());
  newest->ask(3);
  ASSERT_TRUE(until([&] { return answers.back() == 3; }));
  EXPECT_EQ(std::count(answers.begin(), answers.end(), 0), 0);
}

/// An answer that is on its way when a newer question comes does not arrive.
TEST_F(NewestTest, AnswersThatAreOnTheirWayAreOvertakenToo) {
  newest->ask(0);
  ASSERT_TRUE(until([&] { return begun == 1; }));
  letGo = true;
  // Nothing is delivered until events are handled: however far the first answer has come, this one is newer.
  newest->ask(7);
  ASSERT_TRUE(until([&] { return !answers.empty(); }));
  EXPECT_EQ(answers, std::vector<int>{7});
}

TEST_F(NewestTest, WhatIsForgottenIsNotAnswered) {
  newest->ask(0);
  ASSERT_TRUE(until([&] { return begun == 1; }));
  newest->forget();
  ASSERT_TRUE(until([&] { return calledOff == 1; }));
  newest->ask(5);
  ASSERT_TRUE(until([&] { return !answers.empty(); }));
  EXPECT_EQ(answers, std::vector<int>{5});
}

TEST_F(NewestTest, GoesInTheMiddleOfIt) {
  newest->ask(0);
  ASSERT_TRUE(until([&] { return begun == 1; }));
  newest.reset();
  EXPECT_EQ(calledOff, 1);
  QCoreApplication::processEvents();
  EXPECT_TRUE(answers.empty());
}

}  // namespace
}  // namespace molten
