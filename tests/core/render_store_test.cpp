// The list of renders on disk, and the work on it.
#include <thread>

#include "core/engine/piece_folder.h"
#include "core/engine/render_runner.h"
#include "core/files/read_file.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

namespace fs = std::filesystem;
using State = StoredRender::State;

class RenderList : public ::testing::Test {
 protected:
  RenderList() : store(folder / "list") {
    test::makeNumberedClip(folder / "clip.mkv", 300, {96, 64}, "-c:v libx264 -preset ultrafast -g 30 -pix_fmt yuv420p");
  }
  StoredRender wish(const std::string& name) {
    StoredRender render;
    render.job.project.source.path = folder / "clip.mkv";
    render.job.project.chain = chainOf({"time-field:back=0.4s"});
    render.job.project.output.path = folder / name;
    render.job.sound = SoundWish::None;
    render.summary = "300 pictures";
    return render;
  }
  std::string add(const std::string& name) {
    const auto id = store.add(wish(name));
    EXPECT_TRUE(id) << (id ? "" : id.error().message);
    return *id;
  }
  std::optional<int> work(const RunnerTold& told = [](const StoredRender&) {}, std::stop_token stop = {}) {
    RunnerMachine machine;
    machine.memoryBytes = std::size_t(200) << 20;
    return runRenders(store, machine, told, stop);
  }
  /// Works until so many pictures are made.
  void workFor(int pictures, const std::function<void()>& then = [] {}) {
    std::stop_source stop;
    RunnerMachine machine;
    machine.memoryBytes = std::size_t(200) << 20;
    int made = 0;
    machine.hold = [&](const std::stop_token&) {
      if (++made != pictures) return;
      then();
      stop.request_stop();
    };
    runRenders(store, machine, [](const StoredRender&) {}, stop.get_token());
  }
  Status again(const std::string& id) {
    return store.change(id, [](StoredRender& one) { one.state = State::Waiting; });
  }
  /// Of result.mkv, by name.
  std::vector<std::string> pieces() {
    std::vector<std::string> names;
    std::error_code none;
    for (const auto& entry : fs::directory_iterator(piecesBeside(folder / "result.mkv"), none))
      if (const std::string name = entry.path().filename(); name.starts_with("piece-")) names.push_back(name);
    std::sort(names.begin(), names.end());
    return names;
  }
  State state(const std::string& id) {
    for (const StoredRender& one : store.all())
      if (one.id == id) return one.state;
    ADD_FAILURE() << id << " is not there";
    return State::Failed;
  }
  std::string bytes(const std::string& name) {
    auto all = readWhole(folder / name, std::size_t(1) << 28);
    EXPECT_TRUE(all) << name;
    return all ? *all : "";
  }
  std::string sentence(const std::string& id) { return store.read(id)->sentence; }
  /// Nothing but the clip, the list, and what is named.
  void expectOnly(std::vector<std::string> names) {
    names.insert(names.end(), {"clip.mkv", "list"});
    std::sort(names.begin(), names.end());
    auto there = folder.names();
    std::sort(there.begin(), there.end());
    EXPECT_EQ(there, names);
  }

  test::TempFolder folder;
  RenderStore store;
};

TEST_F(RenderList, GivesBackWhatWasPutIn) {
  StoredRender render = wish("one.mov");
  render.job.pictures = Span{3, 77};
  render.job.sound = SoundWish::Copy;
  render.job.timeMap = TimeMapUnit::Frames;
  render.job.mayReplace = 4;
  render.job.project.output.codec = "prores";
  render.job.project.output.quality = 2;
  const auto id = store.add(render);
  ASSERT_TRUE(id);
  const auto read = store.read(*id);
  ASSERT_TRUE(read) << read.error().message;
  EXPECT_EQ(read->job.project, render.job.project);
  ASSERT_TRUE(read->job.pictures);
  EXPECT_EQ(read->job.pictures->first, 3);
  EXPECT_EQ(read->job.pictures->last, 77);
  EXPECT_EQ(read->job.sound, render.job.sound);
  EXPECT_EQ(read->job.timeMap, render.job.timeMap);
  EXPECT_EQ(read->job.mayReplace, render.job.mayReplace);
  EXPECT_EQ(read->summary, render.summary);
  EXPECT_EQ(read->state, State::Waiting);
  ASSERT_TRUE(store.change(*id, [](StoredRender& one) { one.state = State::Failed, one.sentence = "No \"room\" left.\nNone."; }));
  EXPECT_EQ(store.read(*id)->sentence, "No \"room\" left.\nNone.");
  EXPECT_EQ(store.read(*id)->job.project, render.job.project);
  ASSERT_TRUE(store.remove(*id));
  EXPECT_TRUE(store.all().empty());
}

TEST_F(RenderList, KeepsItsOrderAndChangesIt) {
  const std::string a = add("a.mkv"), b = add("b.mkv"), c = add("c.mkv");
  const auto order = [&] {
    std::string ids;
    for (const auto& one : store.all()) ids += fs::path(one.path()).stem().string();
    return ids;
  };
  EXPECT_EQ(order(), "abc");
  ASSERT_TRUE(store.move(c, -1));
  EXPECT_EQ(order(), "acb");
  ASSERT_TRUE(store.move(a, 1));
  EXPECT_EQ(order(), "cab");
  ASSERT_TRUE(store.move(c, -1));
  ASSERT_TRUE(store.move(b, 1));
  EXPECT_EQ(order(), "cab") << "at the ends nothing moves";
  ASSERT_TRUE(store.change(a, [](StoredRender& one) { one.state = State::Paused; }));
  std::vector<std::string> written;
  EXPECT_EQ(work([&](const StoredRender& one) { if (one.state == State::Written) written.push_back(fs::path(one.path()).stem()); }), 0);
  EXPECT_EQ(written, (std::vector<std::string>{"c", "b"}));
  EXPECT_EQ(state(a), State::Paused);
  expectOnly({"b.mkv", "c.mkv"});
}

TEST_F(RenderList, OneThatFailsIsSaidAndTheOthersGoOn) {
  const std::string a = add("a.mkv"), b = add("no/such/folder/b.mkv"), c = add("c.wav");
  EXPECT_EQ(work(), 2);
  EXPECT_EQ(state(a), State::Written);
  EXPECT_EQ(state(b), State::Failed);
  EXPECT_NE(sentence(b).find("folder"), std::string::npos) << sentence(b);
  EXPECT_EQ(state(c), State::Failed);
  EXPECT_NE(sentence(c).find("no sound"), std::string::npos) << sentence(c);
}

TEST_F(RenderList, OneAtATimeWorksOnIt) {
  const std::string a = add("a.mkv");
  ASSERT_TRUE(store.change(a, [](StoredRender& one) { one.state = State::Running; }));
  EXPECT_EQ(state(a), State::Waiting) << "nobody is at it";
  {
    const auto turn = store.takeTurn();
    ASSERT_TRUE(turn);
    EXPECT_EQ(state(a), State::Running);
    EXPECT_FALSE(work());
    EXPECT_FALSE(store.remove(a)) << "it is under way";
  }
  EXPECT_EQ(work(), 0);
  EXPECT_EQ(state(a), State::Written);
}

/// Stopped after some pieces, it goes on with the others, and comes to what it would have been.
TEST_F(RenderList, GoesOnWhereItWas) {
  add("whole.mp4");
  ASSERT_EQ(work(), 0);
  const std::string id = add("result.mp4");
  for (int round = 0; round < 2; ++round) {
    std::stop_source stop;
    RunnerMachine machine;
    machine.memoryBytes = std::size_t(200) << 20;
    int pictures = 0;
    machine.hold = [&](const std::stop_token&) {
      if (++pictures == 130) stop.request_stop();
    };
    runRenders(store, machine, [](const StoredRender&) {}, stop.get_token());
    EXPECT_EQ(state(id), State::Waiting);
    EXPECT_FALSE(fs::exists(folder / "result.mp4"));
  }
  std::int64_t first = 0;
  EXPECT_EQ(work([&](const StoredRender& one) { if (first == 0) first = one.progress.done; }), 0);
  EXPECT_GT(first, 240) << "two of three pieces were there";
  EXPECT_TRUE(bytes("whole.mp4") == bytes("result.mp4"));
  expectOnly({"whole.mp4", "result.mp4"});
}

TEST_F(RenderList, WhatIsCancelledOrPausedByAnotherIsLetGo) {
  for (const State wished : {State::Cancelled, State::Paused}) {
    const std::string id = add("result.mkv");
    RenderStore other(store.folder());
    bool asked = false;
    RunnerMachine machine;
    // As slow as it has to be for the list to be looked at.
    machine.hold = [&](const std::stop_token& stop) {
      if (!std::exchange(asked, true)) (void)other.change(id, [&](StoredRender& one) { one.state = wished; });
      std::this_thread::sleep_for(std::chrono::milliseconds(stop.stop_requested() ? 0 : 5));
    };
    EXPECT_EQ(runRenders(store, machine, [](const StoredRender&) {}, {}), 0);
    EXPECT_EQ(state(id), wished);
    EXPECT_FALSE(fs::exists(folder / "result.mkv"));
    if (fs::exists(piecesBeside(folder / "result.mkv"))) {
      EXPECT_TRUE(PieceFolder::holdsPieces(piecesBeside(folder / "result.mkv")));
    }
    ASSERT_TRUE(store.remove(id));
    expectOnly({});
  }
}

/// Its own clip has been cut anew: the pieces of before are nothing to go on with, but they go only when the render is removed.
TEST_F(RenderList, PiecesOfWhatItWasBeforeAreNotGoneOnWith) {
  const std::string id = add("result.mkv");
  workFor(130);
  const auto before = pieces();
  ASSERT_FALSE(before.empty());
  fs::rename(folder / "clip.mkv", folder / "kept.mkv");
  EXPECT_EQ(work(), 1) << "a clip that is not there";
  EXPECT_EQ(pieces(), before);
  test::makeNumberedClip(folder / "clip.mkv", 290, {96, 64}, "-c:v libx264 -preset ultrafast -g 30 -pix_fmt yuv420p");
  ASSERT_TRUE(again(id));
  EXPECT_EQ(work(), 1);
  EXPECT_NE(sentence(id).find("clip.mkv has been changed since"), std::string::npos) << sentence(id);
  EXPECT_EQ(pieces(), before);
  fs::rename(folder / "kept.mkv", folder / "clip.mkv");
  ASSERT_TRUE(again(id));
  std::int64_t first = 0;
  EXPECT_EQ(work([&](const StoredRender& one) { if (first == 0) first = one.progress.done; }), 0) << sentence(id);
  EXPECT_GE(first, 30) << "what was made before";
}

TEST_F(RenderList, AFileThatHasAppearedInItsPlaceCostsNoPieces) {
  StoredRender careful = wish("result.mkv");
  careful.job.mayReplace = 0;
  const auto id = store.add(careful);
  workFor(130);
  const auto before = pieces();
  ASSERT_FALSE(before.empty());
  test::writeFile(folder / "result.mkv", "somebody else's");
  EXPECT_EQ(work(), 1);
  EXPECT_NE(sentence(*id).find("has come to be there"), std::string::npos) << sentence(*id);
  EXPECT_EQ(pieces(), before);
  fs::remove(folder / "result.mkv");
  ASSERT_TRUE(again(*id));
  EXPECT_EQ(work(), 0);
  expectOnly({"result.mkv"});
}

TEST_F(RenderList, WhatIsCancelledGoesOnUntilItIsRemoved) {
  const std::string id = add("result.mkv");
  workFor(130, [&] { (void)store.change(id, [](StoredRender& one) { one.state = State::Cancelled; }); });
  EXPECT_EQ(state(id), State::Cancelled);
  const auto before = pieces();
  ASSERT_FALSE(before.empty());
  const std::string other = add("other.mkv");
  EXPECT_EQ(work(), 0) << "tidying up leaves it alone";
  EXPECT_EQ(pieces(), before);
  ASSERT_TRUE(again(id));
  EXPECT_EQ(work(), 0);
  expectOnly({"other.mkv", "result.mkv"});
  // What is made in that place by hand, after a result was written, is not the list's to remove.
  fs::create_directory(piecesBeside(folder / "result.mkv"));
  test::writeFile(piecesBeside(folder / "result.mkv") + "/piece-0000000.molten-piece", std::string("mine"));
  add("third.mkv");
  EXPECT_EQ(work(), 0);
  ASSERT_TRUE(store.remove(id));
  EXPECT_EQ(pieces().size(), 1u);
}

/// An entry that cannot be read for a while calls nothing off.
TEST_F(RenderList, AnEntryThatCannotBeReadIsNotCancelled) {
  const std::string id = add("result.mkv");
  RunnerMachine machine;
  machine.memoryBytes = std::size_t(200) << 20;
  bool broken = false;
  machine.hold = [&](const std::stop_token& stop) {
    if (!std::exchange(broken, true)) test::writeFile(folder / ("list/" + id + "/render.json"), std::string("{"));
    // Long enough for the list to be looked at.
    if (!stop.stop_requested()) std::this_thread::sleep_for(std::chrono::milliseconds(3));
  };
  EXPECT_EQ(runRenders(store, machine, [](const StoredRender&) {}, {}), 0);
  EXPECT_EQ(test::openFootage(folder / "result.mkv")->clock().frameCount(), 300);
}

TEST_F(RenderList, OtherSettingsBeginAnew) {
  const std::string id = add("result.mkv");
  workFor(130, [&] { (void)store.change(id, [](StoredRender& one) { one.state = State::Cancelled; }); });
  ASSERT_FALSE(pieces().empty());
  StoredRender changed = wish("result.mkv");
  changed.job.project.chain = chainOf({"time-field:back=0.2s"});
  ASSERT_TRUE(store.add(changed));
  EXPECT_EQ(work(), 0);
  EXPECT_EQ(test::openFootage(folder / "result.mkv")->clock().frameCount(), 300);
}

TEST_F(RenderList, NothingIsReplacedThatNobodyAgreedTo) {
  StoredRender careful = wish("result.mkv");
  careful.job.mayReplace = 0;
  const auto id = store.add(careful);
  test::writeFile(folder / "result.mkv", "somebody else's");
  EXPECT_EQ(work(), 1);
  EXPECT_EQ(bytes("result.mkv"), "somebody else's");
  EXPECT_NE(sentence(*id).find("has come to be there"), std::string::npos) << sentence(*id);
  // Of what it had just put in place itself when it was ended nobody needs to be asked.
  ASSERT_TRUE(store.change(*id, [](StoredRender& one) { one.state = State::Running, one.joining = true; }));
  EXPECT_EQ(work(), 0);
  EXPECT_EQ(test::openFootage(folder / "result.mkv")->clock().frameCount(), 300);
}

/// Rendered once more to the same name: what an older entry was leaves the newer one's pieces alone.
TEST_F(RenderList, PiecesBelongToWhoeverIsOnTheWay) {
  const std::string old = add("result.mkv");
  ASSERT_EQ(work(), 0);
  const std::string id = add("result.mkv");
  RunnerMachine machine;
  machine.memoryBytes = std::size_t(200) << 20;
  std::stop_source stop;
  int pictures = 0;
  machine.hold = [&](const std::stop_token&) {
    if (++pictures == 60) stop.request_stop();
  };
  runRenders(store, machine, [](const StoredRender&) {}, stop.get_token());
  ASSERT_TRUE(store.change(id, [](StoredRender& one) { one.state = State::Paused; }));
  ASSERT_TRUE(fs::exists(piecesBeside(folder / "result.mkv")));
  EXPECT_EQ(work(), 0);
  EXPECT_TRUE(fs::exists(piecesBeside(folder / "result.mkv"))) << "paused, not given up";
  ASSERT_TRUE(store.remove(old));
  EXPECT_TRUE(fs::exists(piecesBeside(folder / "result.mkv")));
  ASSERT_TRUE(store.remove(id));
  EXPECT_FALSE(fs::exists(piecesBeside(folder / "result.mkv")));
}

TEST_F(RenderList, WhatIsNoRenderIsPassedOver) {
  const std::string id = add("a.mkv");
  for (const auto& [name, text] : {std::pair{"x", "{"}, std::pair{"y", "{\"format\":1,\"state\":\"moon\"}"}, std::pair{"z", "[]"}, std::pair{"w", ""}}) {
    fs::create_directory(folder.path() / "list" / name);
    test::writeFile((folder.path() / "list" / name / "render.json").string(), std::string(text));
  }
  EXPECT_EQ(store.all().size(), 1u);
  EXPECT_FALSE(store.read("x"));
  EXPECT_EQ(state(id), State::Waiting);
}

}  // namespace
}  // namespace molten
