// What is thrown in the window, or on a thread of it, ends nothing: it is said, the work is kept, and the next event is handled.
#include <QLockFile>

#include "app/mailbox/newest.h"
#include "app/trouble/application.h"
#include "bench_fixture.h"
#include "core/project/project_file.h"
#include "failing_memory.h"

namespace molten {
namespace {

class ThrownInTheWindow : public test::BenchTest {
 protected:
  ThrownInTheWindow() {
    QObject::connect(qobject_cast<Application*>(qApp), &Application::troubled, &context, [this](const QString& sentence) { troubles << sentence; });
  }
  /// What another start would offer, if this run ended here and now.
  std::optional<Project> kept() {
    const auto files = QDir(QString::fromStdString(folder / "autosave")).entryList({"*.molten"});
    if (files.size() != 1) return std::nullopt;
    const auto loaded = loadProject((folder / "autosave/") + files[0].toStdString());
    return loaded ? std::optional(*loaded) : std::nullopt;
  }
  QObject context;
  QStringList troubles;
};

TEST_F(ThrownInTheWindow, AnEventsExceptionIsSaidAndTheWorkIsKept) {
  open(clip());
  bench->document().apply(setSpan(project(), 5, 20, "In and out"));
  QTimer::singleShot(0, &context, [] { throw std::bad_alloc(); });
  ASSERT_TRUE(until([&] { return troubles.size() == 1; }));
  EXPECT_TRUE(troubles[0].startsWith("There is not enough memory")) << troubles[0].toStdString();
  ASSERT_TRUE(kept());
  EXPECT_EQ(kept()->in, 5);
  // A file system's failure is not called a lack of memory.
  QTimer::singleShot(0, &context, [] { throw std::filesystem::filesystem_error("open", "/takes/a.mkv", std::make_error_code(std::errc::io_error)); });
  ASSERT_TRUE(until([&] { return troubles.size() == 2; }));
  EXPECT_TRUE(troubles[1].contains("/takes/a.mkv cannot be worked with")) << troubles[1].toStdString();
  goTo(30);
  EXPECT_TRUE(shows(30)) << "the window goes on";
}

TEST_F(ThrownInTheWindow, ABackgroundQuestionsExceptionIsSaidAndTheNextOneAnswered) {
  int doubledTo = 0;
  Newest<int, int> doubled([](const int& number, std::stop_token) -> int {
    if (number < 0) throw std::runtime_error("no such number");
    return 2 * number;
  }, [&](const int& said) { doubledTo = said; });
  doubled.ask(-1);
  ASSERT_TRUE(until([&] { return troubles.size() == 1; }));
  EXPECT_TRUE(troubles[0].contains("no such number")) << troubles[0].toStdString();
  doubled.ask(21);
  EXPECT_TRUE(until([&] { return doubledTo == 42; }));
}

/// All of it is in memory and nothing is decoded any more: that the clip is another one now is said all the same.
TEST_F(ThrownInTheWindow, AClipThatIsReplacedOrCutShortIsSaid) {
  QStringList said;
  QObject::connect(bench->findChild<Session*>(), &Session::said, &context, [&](const QString& sentence) { said << sentence; });
  for (const bool cut : {false, true}) {
    const std::string path = clip(cut ? "cut.mkv" : "replaced.mkv", 20);
    open(path);
    said.clear();
    if (cut)
      std::filesystem::resize_file(path, std::filesystem::file_size(path) / 2);
    else
      test::makeNumberedClip(path, 30, {320, 180}, "-c:v ffv1");
    EXPECT_TRUE(until([&] { return said.size() >= 1; }));
    EXPECT_TRUE(!said.isEmpty() && said[0].contains("has been changed, cut short or taken away")) << said.join('|').toStdString();
  }
}

/// At one point after another of ordinary work a large allocation fails, wherever it is made: nothing ends, and the work is kept.
TEST_F(ThrownInTheWindow, AllocationsThatFailEndNothing) {
  open(clip());
  addTimeField();
  int survived = 0;
  for (int point = 0; point < 200; ++point) {
    const std::int64_t in = 1 + point % 20;
    bench->document().apply(setSpan(project(), in, 40, "In and out"));
    bench->document().endGesture();
    {
      // The so many-th of them from here on.
      const test::FailingMemory failing(point % 25);
      goTo(20 + point % 30);
      QTest::keyClick(&picture(), Qt::Key_Right);
      bench->document().apply(setValue(project(), 0, parameterIndex(project().chain[0].kind->description(), "back"), 0.1 + point % 5 * 0.1));
      picture().grab();
      QTest::qWait(5);
    }
    bench->document().autosaveNow();
    ASSERT_TRUE(kept()) << "point " << point;
    EXPECT_EQ(kept()->in, in);
    ++survived;
  }
  EXPECT_EQ(survived, 200);
  EXPECT_GT(test::FailingMemory::failed(), 100) << "allocations did fail";
  // And everything is as it was.
  bench->document().apply(setValue(project(), 0, parameterIndex(project().chain[0].kind->description(), "back"), 1.0));
  goTo(40);
  EXPECT_TRUE(shows(numberInField(40)));
}

}  // namespace
}  // namespace molten
