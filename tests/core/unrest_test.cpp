// Everything at once, at random moments, and the end in the middle of it: for the thread sanitizer above all.
#include <atomic>
#include <random>
#include <thread>

#include "core/engine/render_job.h"
#include "core/engine/viewer.h"
#include "core/number_text.h"
#include "core/project/piece.h"
#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;
using namespace std::chrono_literals;

/// A handle is dragged, footage replaced while it is, and a render begun and called off, again and again.
TEST(Unrest, DraggingReplacingAndCancelling) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mp4", 60, {160, 120}, "-c:v libx264 -g 20 -bf 2");
  test::makeNumberedClip(folder / "b.mp4", 45, {128, 96}, "-c:v libx264 -g 15");
  const std::shared_ptr<const Footage> clips[] = {test::openFootage(folder / "a.mp4"),
                                                  test::openFootage(folder / "b.mp4")};
  std::atomic<int> troubles = 0, pictures = 0, renders = 0;
  std::atomic<bool> over = false;
  std::jthread renderer([&] {
    std::mt19937 random(21);
    while (!over) {
      RenderSettings settings;
      settings.footage = clips[random() % 2];
      settings.project.source.path = settings.footage->path();
      settings.project.chain = {*parseStage("time-field:back=0.4s,start=0x0,end=1x1", 25)};
      settings.project.source.between = InBetween::Flow;
      settings.project.output.path = folder / "out.mkv";
      settings.memoryBytes = settings.footage->shape().bytes() * (random() % 2 ? 100 : 8);
      std::stop_source stop;
      std::jthread canceller([&, wait = random() % 60] {
        std::this_thread::sleep_for(std::chrono::milliseconds(wait));
        stop.request_stop();
      });
      const auto rendered = render(settings, {}, stop.get_token());
      if (!rendered && !rendered.error().cancelled) ++troubles;
      ++renders;
    }
  });
  std::mt19937 random(22);
  for (int round = 0; round < 8; ++round) {
    const auto& footage = clips[round % 2];
    auto feed = std::make_shared<FrameFeed>(footage, footage->shape().bytes() * (round % 4 == 3 ? 12 : 80), 2);
    Viewer viewer(std::make_shared<Sources>(feed, 2), 2, [&](Result<Shown> shown) {
      ++pictures;
      if (!shown) ++troubles;
    });
    const int drags = 20 + static_cast<int>(random() % 10);
    for (int i = 0; i < drags; ++i) {
      View view{{}, static_cast<std::int64_t>(random() % 40), {160, 120}, pieceOf(Chain{}, {}, footage->video())};
      const double x = static_cast<double>(random() % 100) / 100;
      view.chain = {*parseStage("time-field:back=0.3s,start=" + exactText(x) + "x0", footage->clock().rate())};
      view.between = static_cast<InBetween>(random() % 3);
      if (i % 7 == 3)
        viewer.play(view, {0, 39}, true, 1);
      else if (i % 7 == 5)
        viewer.halt();
      else
        random() % 3 ? viewer.show(view) : viewer.change(view, {0, 39});
      if (i % 11 == 0) feed->setBudget(footage->shape().bytes() * (4 + random() % 90));
      viewer.takeDue();
      std::this_thread::sleep_for(std::chrono::microseconds(random() % 4000));
    }
    if (round % 2) continue;  // every other time the end comes in the middle of it
    viewer.halt();
    const int before = pictures;
    viewer.show({{}, 7, {160, 120}, pieceOf(Chain{}, {}, footage->video())});
    for (int i = 0; i < 3000 && pictures == before; ++i) std::this_thread::sleep_for(10ms);
    EXPECT_GT(pictures, before) << "the last wish of round " << round << " was not heeded";
  }
  over = true;
  renderer.join();
  EXPECT_EQ(troubles, 0);
  EXPECT_GE(pictures, 4);
  EXPECT_GT(renders, 1);
  // What was called off has left nothing behind: at most the last whole result stands there.
  for (const auto& name : folder.names()) EXPECT_TRUE(name == "a.mp4" || name == "b.mp4" || name == "out.mkv") << name;
}

}  // namespace
}  // namespace molten
