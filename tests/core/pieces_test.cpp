// Renders in pieces: whoever makes them, and in whatever order, joined they are what one render writes.
#include <random>
#include <thread>

#include "core/engine/piece_folder.h"
#include "core/engine/project_footage.h"
#include "core/files/read_file.h"
#include "core/media/piece_file.h"
#include "core/project/project_file.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

std::string bytesOf(const std::string& path) {
  auto all = readWhole(path, std::size_t(1) << 30);
  EXPECT_TRUE(all) << (all ? "" : all.error().message);
  return all ? *all : std::string();
}

class RenderPieces : public ::testing::Test {
 protected:
  RenderPieces() {
    test::makeNumberedClip(folder / "clip.mkv", 250, {96, 64}, "-f lavfi -i sine=f=300:d=10 -c:v libx264 -preset ultrafast -g 30 -pix_fmt yuv420p -c:a flac");
    settings.footage = test::openFootage(folder / "clip.mkv");
    settings.project.source.path = folder / "clip.mkv";
    settings.project.chain = chainOf({"time-field:back=0.4s"});
    settings.project.output.path = folder / "result.mkv";
    settings.memoryBytes = std::size_t(200) << 20;
  }
  /// Shares made by calls of their own, each of which opens the footage anew.
  Status makeShares(std::vector<std::int64_t> order) {
    for (const std::int64_t number : order) {
      const auto pieces = PieceFolder::open(folder / "pieces");
      if (!pieces) return pieces.error();
      RenderSettings machine;
      machine.threads = static_cast<int>(number % 3) + 1;
      machine.memoryBytes = std::size_t(100 + 50 * number) << 20;
      if (auto made = pieces->work({number, std::ssize(order)}, machine, {}, {}); !made) return made.error();
    }
    return {};
  }
  Result<RenderOutline> joined(const std::string& output) {
    const auto pieces = PieceFolder::open(folder / "pieces");
    if (!pieces) return pieces.error();
    return pieces->join(output, {}, {}, {});
  }
  std::string pieceName(std::size_t k) { return PieceFolder::open(folder / "pieces")->pathOf(PieceFolder::open(folder / "pieces")->pieces()[k]); }

  test::TempFolder folder;
  RenderSettings settings;
};

TEST_F(RenderPieces, JoinedTheyAreToTheByteWhatOneRenderWrites) {
  for (const CodecDescription& codec : codecs())
    for (const std::string& ending : codec.extensions) {
      // A kind of file is a kind of file: the others hold the same packets.
      if (ending != codec.extensions[0] && codec.id != "h264") continue;
      SCOPED_TRACE(codec.id + " " + ending);
      const std::string name = codec.stills ? "%05d" + ending : "one" + ending;
      settings.project.output.codec = codec.id;
      settings.project.output.path = folder / ("whole-" + name);
      settings.threads = 3;
      const auto whole = render(settings, {}, {});
      ASSERT_TRUE(whole) << whole.error().message;
      settings.project.output.path = folder / ("joined-" + name);
      const auto made = PieceFolder::make(folder / "pieces", settings);
      ASSERT_TRUE(made) << made.error().message;
      EXPECT_EQ(made->pictures(), 250);
      const auto done = makeShares({3, 1, 2});
      ASSERT_TRUE(done) << done.error().message;
      const auto all = joined(folder / ("joined-" + name));
      ASSERT_TRUE(all) << all.error().message;
      EXPECT_EQ(all->plan.notes, whole->plan.notes);
      int compared = 0;
      for (const std::string& file : folder.names())
        if (file.starts_with("whole-")) {
          const bool same = bytesOf(folder / file) == bytesOf(folder / ("joined-" + file.substr(6)));
          EXPECT_TRUE(same) << file;
          fs::remove(folder / file), fs::remove(folder / ("joined-" + file.substr(6)));
          ++compared;
        }
      EXPECT_EQ(compared, codec.stills ? 250 : 1);
      PieceFolder::discard(folder / "pieces");
      EXPECT_FALSE(fs::exists(folder / "pieces"));
    }
}

TEST_F(RenderPieces, AStretchAndAnotherSizeToo) {
  settings.pictures = Span{17, 201};
  settings.project.output.size = Size{48, 32};
  settings.project.output.path = folder / "whole.mp4";
  ASSERT_TRUE(render(settings, {}, {}));
  settings.project.output.path = folder / "joined.mp4";
  ASSERT_TRUE(PieceFolder::make(folder / "pieces", settings));
  ASSERT_TRUE(makeShares({2, 1}));
  ASSERT_TRUE(joined({}));
  EXPECT_TRUE(bytesOf(folder / "whole.mp4") == bytesOf(folder / "joined.mp4"));
}

TEST_F(RenderPieces, WhatIsMissingIsNamedAndOnlyThatIsMade) {
  ASSERT_TRUE(PieceFolder::make(folder / "pieces", settings));
  ASSERT_TRUE(makeShares({1, 2, 3}));
  const std::string gone = pieceName(4);
  fs::remove(gone);
  const auto first = fs::last_write_time(pieceName(0));
  const auto failed = joined(folder / "result.mkv");
  ASSERT_FALSE(failed);
  EXPECT_NE(failed.error().message.find("1 of 11 pieces are missing"), std::string::npos) << failed.error().message;
  EXPECT_NE(failed.error().message.find(fs::path(gone).filename().string()), std::string::npos) << failed.error().message;
  EXPECT_FALSE(fs::exists(folder / "result.mkv"));
  std::int64_t pictures = 0;
  const auto pieces = PieceFolder::open(folder / "pieces");
  ASSERT_TRUE(pieces->work({}, {}, [&](const RenderProgress& progress) { pictures = progress.total; }, {}));
  EXPECT_EQ(pictures, 24);
  EXPECT_EQ(fs::last_write_time(pieceName(0)), first);
  EXPECT_TRUE(joined(folder / "result.mkv"));
}

TEST_F(RenderPieces, WhatIsWholeStaysWhenItIsStopped) {
  const auto pieces = PieceFolder::make(folder / "pieces", settings);
  std::stop_source stop;
  const auto made = pieces->work({}, settings, [&](const RenderProgress& progress) { if (progress.done == 100) stop.request_stop(); }, stop.get_token());
  ASSERT_FALSE(made);
  EXPECT_TRUE(made.error().cancelled);
  const auto left = pieces->missing();
  EXPECT_GE(left.front().first, 24) << "what was ready has been kept";
  EXPECT_LE(left.front().first, 120);
  for (const auto& entry : fs::directory_iterator(folder / "pieces")) EXPECT_NE(entry.path().extension(), ".part");
}

/// A GIF's pictures are gone through twice: the second time is told, and called off, as the first is.
TEST_F(RenderPieces, WhatAFileIsFinishedByIsToldAndCalledOff) {
  settings.project.output.path = folder / "result.gif";
  struct Finish {
    std::vector<double> parts;
    std::stop_source stop;
    double until = 2;
    void operator()(const RenderProgress& progress) {
      if (!progress.finishing) {
        EXPECT_FALSE(progress.secondsLeft) << "not of what follows";
        return;
      }
      EXPECT_EQ(progress.done, progress.total);
      ASSERT_TRUE(progress.secondsLeft);
      EXPECT_GE(*progress.secondsLeft, 0);
      EXPECT_GT(*progress.finishing, parts.empty() ? 0 : parts.back());
      parts.push_back(*progress.finishing);
      if (parts.back() > until) stop.request_stop();
    }
  };
  const auto rendering = [&](Finish& finish) { return render(settings, std::ref(finish), finish.stop.get_token()); };
  ASSERT_TRUE(PieceFolder::make(folder / "pieces", settings));
  ASSERT_TRUE(makeShares({1}));
  const auto joining = [&](Finish& finish) { return PieceFolder::open(folder / "pieces")->join({}, {}, std::ref(finish), finish.stop.get_token()); };
  const auto names = folder.names();
  for (const auto& way : {std::function<Result<RenderOutline>(Finish&)>(rendering), std::function<Result<RenderOutline>(Finish&)>(joining)}) {
    Finish stopped;
    stopped.until = 0.7;
    const auto none = way(stopped);
    ASSERT_FALSE(none);
    EXPECT_TRUE(none.error().cancelled);
    EXPECT_LT(stopped.parts.back(), 0.75);
    EXPECT_EQ(folder.names(), names);
    Finish whole;
    ASSERT_TRUE(way(whole));
    EXPECT_EQ(whole.parts.back(), 1);
    EXPECT_GE(whole.parts.size(), 249u);
    fs::remove(folder / "result.gif");
  }
}

/// Whoever is told may hold the work, as the window does while something is played: that is no work.
TEST_F(RenderPieces, APauseDoesNotCountAsFinishing) {
  settings.project.output.path = folder / "result.gif";
  double held = 0, most = 0;
  const auto told = [&](const RenderProgress& progress) {
    if (!progress.finishing) return;
    if (held > 0) most = std::max(most, *progress.secondsLeft);
    if (held > 0 || *progress.finishing < 0.1) return;
    held = 1 + 4 * *progress.secondsLeft;
    std::this_thread::sleep_for(std::chrono::duration<double>(held));
  };
  ASSERT_TRUE(render(settings, told, {}));
  // Nine tenths are left after one: counted, the pause would be told nine times over.
  EXPECT_GT(held, 0);
  EXPECT_LT(most, held) << "held for " << held << " s";
}

TEST_F(RenderPieces, WhatHasChangedSinceIsSaid) {
  ASSERT_TRUE(PieceFolder::make(folder / "pieces", settings));
  const auto says = [&](const std::string& part) {
    const auto opened = PieceFolder::open(folder / "pieces");
    ASSERT_FALSE(opened);
    EXPECT_NE(opened.error().message.find(part), std::string::npos) << opened.error().message;
  };
  EXPECT_TRUE(PieceFolder::make(folder / "pieces", settings)) << "asked for once more, it is the same";
  RenderSettings other = settings;
  other.project.chain = chainOf({"time-field:back=0.5s"});
  EXPECT_FALSE(PieceFolder::make(folder / "pieces", other));
  other = settings;
  other.sound = SoundWish::None;
  EXPECT_FALSE(PieceFolder::make(folder / "pieces", other));

  const std::string clip = bytesOf(folder / "clip.mkv"), project = bytesOf(folder / "pieces/project.molten"), list = bytesOf(folder / "pieces/pieces.json");
  std::string changed = clip;
  changed[changed.size() - 10] ^= 1;
  test::writeFile(folder / "clip.mkv", changed);
  says("clip.mkv has been changed since");
  fs::remove(folder / "clip.mkv");
  says("clip.mkv is not there any more");
  test::writeFile(folder / "clip.mkv", clip);
  EXPECT_TRUE(PieceFolder::open(folder / "pieces"));
  test::writeFile(folder / "pieces/project.molten", project + " ");
  says("has been changed since");
  test::writeFile(folder / "pieces/project.molten", project);
  for (const auto& [from, to] : {std::pair{"\"made-with\": \"", "\"made-with\": \"9"}, std::pair{"\"format\": 1", "\"format\": 7"}, std::pair{"\"pictures\"", "\"pictvres\""}, std::pair{"{", "["}}) {
    std::string bad = list;
    bad.replace(bad.find(from), std::string(from).size(), to);
    test::writeFile(folder / "pieces/pieces.json", bad);
    says(".");
  }
}

/// A piece that is not as it was written is found out, and nothing stands under the result's name.
TEST_F(RenderPieces, DamagedPiecesAreFound) {
  ASSERT_TRUE(PieceFolder::make(folder / "pieces", settings));
  ASSERT_TRUE(makeShares({1}));
  const std::string path = pieceName(3), whole = bytesOf(path);
  std::mt19937 random(5);
  for (int round = 0; round < 60; ++round) {
    std::string bad = whole;
    if (round % 3 == 0)
      bad.resize(random() % whole.size());
    else
      bad[round < 30 ? random() % 200 : random() % whole.size()] ^= static_cast<char>(1 << random() % 8);
    test::writeFile(path, bad);
    const auto failed = joined(folder / "result.mkv");
    ASSERT_FALSE(failed) << round;
    EXPECT_NE(failed.error().message.find("piece-"), std::string::npos) << failed.error().message;
    EXPECT_FALSE(fs::exists(folder / "result.mkv"));
  }
  // Another's, whole.
  fs::copy_file(pieceName(2), path, fs::copy_options::overwrite_existing);
  EXPECT_FALSE(joined(folder / "result.mkv"));
  test::writeFile(path, whole);
  EXPECT_TRUE(joined(folder / "result.mkv"));
}

/// The list of a folder is lost: pieces of this render are used, those of another one are not.
TEST_F(RenderPieces, WithoutTheirListThePiecesOfThisRenderStay) {
  settings.project.output.path = folder / "whole.mkv";
  ASSERT_TRUE(render(settings, {}, {}));
  ASSERT_TRUE(PieceFolder::make(folder / "pieces", settings));
  ASSERT_TRUE(makeShares({1}));
  fs::remove(folder / "pieces/pieces.json");
  const auto stranger = folder / "pieces/piece-9999999.molten-piece";
  test::writeFile(stranger, std::string("of something else"));
  const auto made = PieceFolder::make(folder / "pieces", settings);
  ASSERT_TRUE(made) << made.error().message;
  EXPECT_TRUE(made->missing().empty());
  EXPECT_FALSE(fs::exists(stranger));
  ASSERT_TRUE(joined(folder / "joined.mkv"));
  EXPECT_TRUE(bytesOf(folder / "whole.mkv") == bytesOf(folder / "joined.mkv"));
}

TEST_F(RenderPieces, PaintingsGoAlong) {
  std::vector<std::uint16_t> samples(64);
  for (std::size_t i = 0; i < samples.size(); ++i) samples[i] = static_cast<std::uint16_t>(i * 1000);
  settings.project.chain = chainOf({"time-field:shape=painted,back=0.4s"});
  setTo(settings.project.chain.front(), "painted", Painting{"", std::make_shared<const PaintedPicture>(Size{8, 8}, samples)});
  settings.project.output.path = folder / "whole.mkv";
  ASSERT_TRUE(render(settings, {}, {}));
  ASSERT_TRUE(PieceFolder::make(folder / "pieces", settings));
  EXPECT_TRUE(PieceFolder::make(folder / "pieces", settings)) << "the same again";
  ASSERT_TRUE(makeShares({1, 2}));
  ASSERT_TRUE(joined(folder / "joined.mkv"));
  EXPECT_TRUE(bytesOf(folder / "whole.mkv") == bytesOf(folder / "joined.mkv"));
  PieceFolder::discard(folder / "pieces");
  EXPECT_FALSE(fs::exists(folder / "pieces"));
}

}  // namespace
}  // namespace molten
