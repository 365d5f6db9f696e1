// Sounds in the window: dropped in, moved, trimmed, heard, and what they give to a Pace.
#include <QMimeData>

#include "app/chart/deck.h"
#include "app/sound/level_meter.h"
#include "app/sound/sound_device.h"
#include "app/sound/sound_lanes.h"
#include "bench_fixture.h"
#include "core/project/sound_edits.h"
#include "core/stages/laid_sound.h"
#include "support/sounds.h"

namespace molten::test {
namespace {

class SoundTest : public BenchTest {
 protected:
  std::string sound(const std::string& name, const std::string& source) {
    const auto made = runCommand("ffmpeg -v error -y -f lavfi -i \"" + source + "\" -ac 2 " + (folder / name));
    EXPECT_EQ(made.exitCode, 0) << made.err;
    return folder / name;
  }
  std::string tone() { return sound("tone.wav", "sine=f=440:r=48000:d=1,volume=4"); }
  /// Four hits: at 0.3, 0.7, 1.1 and 1.5 s.
  std::string hits() {
    return sound("hits.wav", "aevalsrc='0.8*sin(2*PI*1200*t)*gte(t,0.3)*exp(-40*mod(t+0.1,0.4))':s=48000:d=1.85");
  }
  void dropOn(QWidget& widget, const QPointF& at, const std::string& file) {
    QMimeData files;
    files.setUrls({QUrl::fromLocalFile(QString::fromStdString(file))});
    QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&widget, &enter);
    QDropEvent drop(at, Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&widget, &drop);
  }
  /// A clip of two seconds, and a sound dropped onto the window, of which all is known.
  void lay(const std::string& file) {
    open(clip());
    dropOn(*bench, {300, 300}, file);
    ASSERT_TRUE(until([&] { return sight().count() == 1 && sight().state.lanes[0].feed; }));
    ASSERT_TRUE(until([&] { return sight().state.lanes[0].feed->peaks()->complete() && !sight().bodyRect(0).isEmpty(); }));
    stillFor(40);
  }
  SoundLanes& lanes() { return *bench->findChild<SoundLanes*>(); }
  const SoundSight& sight() { return lanes().sight(); }
  LaidSound laid() { return laidSound(project().sounds.at(0)); }
  int steps() { return bench->document().undoStack().index(); }
};

TEST_F(SoundTest, ADroppedSoundLiesOnALaneAndIsSeen) {
  lay(tone());
  ASSERT_EQ(project().sounds.size(), 1u);
  EXPECT_TRUE(lanes().isVisible());
  EXPECT_EQ(sight().state.lanes[0].title, "tone.wav");
  EXPECT_NEAR(sight().state.lanes[0].end, 1, 1e-6);
  // Its outline is drawn where it lies, and nowhere else.
  const QImage image = lanes().grab().toImage();
  const QRectF body = sight().bodyRect(0);
  const auto differs = [&](double x) {
    std::set<QRgb> colours;
    for (double y = body.top() + 4; y < body.bottom() - 4; ++y) colours.insert(image.pixel(static_cast<int>(x), static_cast<int>(y)));
    return colours.size() > 1;
  };
  EXPECT_TRUE(differs(body.center().x()));
  EXPECT_FALSE(differs(body.right() + 40));
  ASSERT_TRUE(trigger("Undo " + QString("Sound tone.wav")) || trigger("Undo"));
  EXPECT_TRUE(project().sounds.empty());
  EXPECT_TRUE(until([&] { return !lanes().isVisible(); }));
}

TEST_F(SoundTest, ItIsMovedTrimmedFadedAndMadeSofterByHandEachInOneStep) {
  lay(tone());
  const QRectF body = sight().bodyRect(0);
  const double second = sight().view.xOf(1) - sight().view.xOf(0);
  const int before = steps();
  // Below the line of its gain.
  const QPointF hold(body.center().x(), body.bottom() - 4);
  drag(lanes(), hold, hold + QPointF(0.4 * second, 0));
  EXPECT_NEAR(laid().at, 0.4, 0.02);
  EXPECT_EQ(steps(), before + 1);
  ASSERT_TRUE(until([&] { return std::abs(sight().state.lanes[0].begin - laid().at) < 1e-6; }));
  const QRectF moved = sight().bodyRect(0);
  drag(lanes(), {moved.right(), moved.bottom() - 4}, {moved.right() - 0.3 * second, moved.bottom() - 4});
  EXPECT_NEAR(laid().length, 0.7, 0.02);
  ASSERT_TRUE(until([&] { return sight().state.lanes[0].end < 1.2; }));
  drag(lanes(), sight().fadePoint(0, false) + QPointF(0, 1), sight().fadePoint(0, false) + QPointF(0.2 * second, 1));
  EXPECT_NEAR(laid().fadeIn, 0.2, 0.02);
  const QPointF line(sight().bodyRect(0).center().x(), sight().gainY(0));
  drag(lanes(), line, line + QPointF(0, 8));
  const double softer = soundGain(project().sounds[0], 0);
  EXPECT_LT(softer, 0.6);
  EXPECT_EQ(steps(), before + 4);
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, sight().buttonRect(0, SoundGrip::Mute).center().toPoint());
  EXPECT_TRUE(soundLevel(project().sounds[0]).mute);
  for (int i = 0; i < 5; ++i) bench->document().undoStack().undo();
  EXPECT_EQ(laid().at, 0);
  EXPECT_EQ(laid().length, 0);
  EXPECT_FALSE(soundLevel(project().sounds[0]).mute);
}

TEST_F(SoundTest, PlayingGivesTheDeviceWhatIsHeard) {
  lay(tone());
  QTest::keyClick(&picture(), Qt::Key_Space);
  const auto heard = [] {
    Sound all;
    std::vector<float> values;
    for (const auto& given : SimulatedSound::given()) values.insert(values.end(), given.sound.values().begin(), given.sound.values().end());
    all = Sound(values.size() / soundChannels);
    std::copy(values.begin(), values.end(), all.values().begin());
    return all;
  };
  ASSERT_TRUE(until([&] { return heard().samples() > 40'000; }));
  QTest::keyClick(&picture(), Qt::Key_Space);
  const Sound got = heard();
  const auto raw = runCommand("ffmpeg -v error -i " + (folder / "tone.wav") + " -f f32le -");
  const auto* const own = reinterpret_cast<const float*>(raw.out.data());
  // By the device's own clock, from the first picture on; what was not mixed yet when it began is silent.
  for (std::size_t i = 12'000; i < 40'000; ++i) ASSERT_NEAR(got.at(i, 0), own[i * 2], 1e-6) << i;
}

TEST_F(SoundTest, TheMeterSaysWhatGoesOver) {
  open(clip());
  const auto& meter = *bench->findChild<LevelMeter*>();
  EXPECT_FALSE(meter.isVisible()) << "there is nothing to hear";
  lay(tone());
  EXPECT_TRUE(meter.isVisible());
  EXPECT_EQ(meter.overText(), "");
  bench->document().apply(setSoundValue(project(), 0, parameterIndex(project().sounds[0].kind->description(), "gain"), 18.0));
  stillFor(40);
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return meter.overText().startsWith("over "); }));
  QTest::keyClick(&picture(), Qt::Key_Space);
  QTest::mouseClick(const_cast<LevelMeter*>(&meter), Qt::LeftButton);
  EXPECT_EQ(meter.overText(), "");
}

TEST_F(SoundTest, OnsetsGiveAPaceItsMarksAndTurns) {
  lay(hits());
  ASSERT_TRUE(until([&] { return sight().state.lanes[0].onsets.size() == 4; })) << sight().state.lanes[0].onsets.size();
  const double wanted[] = {0.3, 0.7, 1.1, 1.5};
  for (std::size_t i = 0; i < 4; ++i) EXPECT_NEAR(sight().state.lanes[0].onsets[i], wanted[i], 0.01);
  QTest::keyClick(&picture(), Qt::Key_Right, Qt::AltModifier);
  EXPECT_NEAR(static_cast<double>(bench->player().view().frame) / pieceNow().rate.toDouble(), 0.3, 0.02);
  QTest::keyClick(&picture(), Qt::Key_Right, Qt::AltModifier);
  QTest::keyClick(&picture(), Qt::Key_Left, Qt::AltModifier);
  EXPECT_NEAR(static_cast<double>(bench->player().view().frame) / pieceNow().rate.toDouble(), 0.3, 0.02);
  ASSERT_TRUE(trigger("Back and again on these onsets"));
  ASSERT_EQ(project().chain.size(), 1u);
  const PaceCurve pace = paceNow();
  ASSERT_EQ(pace.spans().size(), 5u);
  for (std::size_t i = 0; i < 4; ++i) {
    EXPECT_NEAR(pace.beginOf(i + 1).toDouble(), wanted[i], 0.01);
    EXPECT_LT(pace.speedAt(wanted[i] - 0.1) * pace.speedAt(wanted[i] + 0.1), 0) << i;
  }
}

TEST_F(SoundTest, ASoundThatIsGoneLeavesItsLaneAndTheRest) {
  open(clip());
  Project with = project();
  with.sounds.push_back(layingSound(folder / "gone.wav", 0.5));
  bench->document().apply({"Sound", with, {}});
  ASSERT_TRUE(until([&] { return sight().count() == 1; }));
  EXPECT_FALSE(sight().state.lanes[0].feed);
  EXPECT_TRUE(shows(0));
}

}  // namespace
}  // namespace molten::test
