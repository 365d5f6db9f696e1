// Sounds in the window: dropped in, moved, trimmed, heard, and what they give to a Pace.
#include <QMimeData>

#include "app/chart/deck.h"
#include "app/dials/dials.h"
#include "app/dials/movement_button.h"
#include "app/dials/movement_panel.h"
#include "app/render/render_actions.h"
#include "app/sound/heard_shot.h"
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
  QString undoText() { return bench->document().undoStack().undoText(); }
  void typeInto(const char* name, const char* text) {
    QTest::mouseClick(&field(name), Qt::LeftButton);
    QTest::keyClicks(&field(name), text);
    QTest::keyClick(&field(name), Qt::Key_Return);
  }
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
  EXPECT_TRUE(soundSwitches(project().sounds[0]).mute);
  for (int i = 0; i < 5; ++i) bench->document().undoStack().undo();
  EXPECT_EQ(laid().at, 0);
  EXPECT_EQ(laid().length, 0);
  EXPECT_FALSE(soundSwitches(project().sounds[0]).mute);
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
  // By the device's own clock, from the first picture on.
  for (std::size_t i = 0; i < 40'000; ++i) ASSERT_NEAR(got.at(i, 0), own[i * 2], 1e-6) << i;
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

TEST_F(SoundTest, ASoundThatIsGoneLeavesItsLaneAndIsSaid) {
  open(clip());
  QStringList said;
  QObject::connect(bench->findChild<HeardShot*>(), &HeardShot::said, [&](const QString& sentence) { said << sentence; });
  Project with = project();
  with.sounds.push_back(layingSound(folder / "gone.wav", 0.5));
  bench->document().apply({"Sound", with, {}});
  ASSERT_TRUE(until([&] { return sight().count() == 1; }));
  EXPECT_FALSE(sight().state.lanes[0].feed);
  EXPECT_TRUE(shows(0));
  ASSERT_TRUE(until([&] { return !said.isEmpty(); }));
  EXPECT_TRUE(said[0].contains("gone.wav")) << said[0].toStdString();
  // Once, however often something else is changed.
  bench->document().apply({"Longer", [&] {
                             Project longer = project();
                             longer.in = 3;
                             return longer;
                           }(), {}});
  stillFor(60);
  EXPECT_EQ(said.size(), 1);
}

/// What is amiss within a file shows as it is read through.
TEST_F(SoundTest, DamageInASoundIsSaid) {
  const std::string file = sound("hurt.flac", "anoisesrc=d=4:r=48000:a=0.5");
  std::ifstream whole(file, std::ios::binary);
  std::string bytes((std::istreambuf_iterator<char>(whole)), {});
  for (std::size_t i = bytes.size() / 2; i < bytes.size() / 2 + 3000; ++i) bytes[i] = static_cast<char>(i * 37);
  std::ofstream(file, std::ios::binary) << bytes;
  open(clip());
  QStringList said;
  QObject::connect(bench->findChild<HeardShot*>(), &HeardShot::said, [&](const QString& sentence) { said << sentence; });
  dropOn(*bench, {300, 300}, file);
  ASSERT_TRUE(until([&] { return !said.isEmpty(); }));
  EXPECT_TRUE(said[0].startsWith("hurt.flac: ") && said[0].contains("silent")) << said[0].toStdString();
}

TEST_F(SoundTest, ASelectedSoundHasDials) {
  lay(hits());
  auto& dials = *bench->findChild<Dials*>();
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, (sight().bodyRect(0).bottomLeft() + QPointF(30, -4)).toPoint());
  ASSERT_NE(dials.findChild<QLineEdit*>("fade-in"), nullptr);
  const auto labels = dials.findChildren<QLabel*>();
  EXPECT_TRUE(std::any_of(labels.begin(), labels.end(), [](const QLabel* label) { return label->text() == "hits.wav"; }));
  typeInto("fade-in", "0.2");
  EXPECT_NEAR(laid().fadeIn, 0.2, 1e-9);
  EXPECT_EQ(undoText(), "Fade in 0.200 s");
  // How soft an onset may be is a dial like the others.
  ASSERT_TRUE(until([&] { return sight().state.lanes[0].onsets.size() == 4; }));
  typeInto("sensitivity", "20");
  EXPECT_EQ(onsetSensitivity(project().sounds[0]), 0.2);
  EXPECT_TRUE(until([&] { return sight().state.lanes[0].onsets.size() == 4; }));
  // A key of its gain, at the playhead.
  goTo(30);
  QTest::mouseClick(dials.findChild<MovementButton*>("movement gain"), Qt::LeftButton, Qt::ShiftModifier);
  const Stage& keyed = project().sounds[0];
  ASSERT_EQ(keyed.keys.size(), 1u);
  EXPECT_EQ(keyed.keys.begin()->second.front().at, Rational(1));
  EXPECT_TRUE(until([&] { return sight().state.lanes[0].gainMoves; }));
  EXPECT_EQ(bench->findChild<KeyLanes*>()->sight().state.lanes.size(), 1u) << "and it has a key lane";
  // A tile of the Chain takes the Dials back.
  QTest::keyClick(&picture(), Qt::Key_0);
  bench->document().undoStack().undo();
  EXPECT_TRUE(project().sounds[0].keys.empty());
  // A sound that goes leaves none of its dials.
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, (sight().bodyRect(0).bottomLeft() + QPointF(30, -4)).toPoint());
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_TRUE(project().sounds.empty());
  EXPECT_EQ(undoText(), "Remove hits.wav");
  EXPECT_FALSE(dials.isVisible()) << "the footage's stand there again";
}

TEST_F(SoundTest, AGainMayFollowWhatIsHeardButNoPicture) {
  lay(tone());
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, (sight().bodyRect(0).bottomLeft() + QPointF(30, -4)).toPoint());
  auto& dials = *bench->findChild<Dials*>();
  QTest::mouseClick(dials.findChild<MovementButton*>("movement gain"), Qt::LeftButton);
  auto& panel = *dials.findChild<MovementPanel*>();
  QTest::mouseClick(panel.findChild<QPushButton*>("add follow"), Qt::LeftButton);
  EXPECT_EQ(panel.findChild<QPushButton*>("drive 0 follows=brightness"), nullptr);
  auto* const release = panel.findChild<QLineEdit*>("drive 0 release");
  ASSERT_NE(release, nullptr);
  EXPECT_FALSE(release->isVisible()) << "it counts for loudness alone";
  QTest::mouseClick(panel.findChild<QPushButton*>("drive 0 follows=loudness"), Qt::LeftButton);
  EXPECT_TRUE(release->isVisible());
  EXPECT_TRUE(panel.rect().contains(release->mapTo(&panel, release->rect().bottomRight()))) << "the panel has grown";
}

TEST_F(SoundTest, SeveralMoveAndAreSwitchedTogether) {
  lay(tone());
  dropOn(*bench, {300, 300}, hits());
  ASSERT_TRUE(until([&] { return sight().count() == 2 && sight().state.lanes[1].feed && !sight().bodyRect(1).isEmpty(); }));
  stillFor(40);
  const auto hold = [&](std::size_t lane) { return QPointF(sight().bodyRect(lane).left() + 60, sight().bodyRect(lane).bottom() - 4); };
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, hold(0).toPoint());
  QTest::mouseClick(&lanes(), Qt::LeftButton, Qt::ShiftModifier, hold(1).toPoint());
  const int before = steps();
  const double second = sight().view.xOf(1) - sight().view.xOf(0);
  drag(lanes(), hold(1), hold(1) + QPointF(0.5 * second, 0));
  EXPECT_EQ(steps(), before + 1);
  EXPECT_EQ(undoText(), "Move 2 sounds");
  const double first = laidSound(project().sounds[0]).at;
  EXPECT_NEAR(first, 0.5, 0.06);
  EXPECT_EQ(laidSound(project().sounds[1]).at, first);
  ASSERT_TRUE(until([&] { return sight().state.lanes[1].begin == first; }));
  QTest::mouseClick(&lanes(), Qt::LeftButton, {}, sight().buttonRect(0, SoundGrip::Mute).center().toPoint());
  EXPECT_TRUE(soundSwitches(project().sounds[0]).mute && soundSwitches(project().sounds[1]).mute);
  EXPECT_EQ(steps(), before + 2);
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_TRUE(project().sounds.empty());
  EXPECT_EQ(undoText(), "Remove 2 sounds");
  for (int i = 0; i < 3; ++i) bench->document().undoStack().undo();
  EXPECT_EQ(laidSound(project().sounds[1]).at, 0);
}

TEST_F(SoundTest, TheSoundAloneIsRenderedToAFile) {
  lay(tone());
  auto& render = *bench->findChild<RenderActions*>();
  render.writeSound(QString::fromStdString(folder / "mix"));
  ASSERT_TRUE(until([&] { return !render.queue().busy(); }));
  const RenderEntry& entry = render.queue().entries().front();
  EXPECT_EQ(entry.state, RenderEntry::State::Written) << entry.sentence.toStdString();
  EXPECT_TRUE(entry.sentence.contains("LUFS")) << entry.sentence.toStdString();
  const auto length = runCommand("ffprobe -v error -show_entries stream=codec_name,duration -of csv=p=0 " + (folder / "mix.wav"));
  EXPECT_EQ(length.out, "pcm_s24le,2.000000\n");
  // What the project reads is not written over.
  render.writeSound(QString::fromStdString(folder / "tone.wav"));
  ASSERT_TRUE(until([&] { return !render.queue().busy(); }));
  EXPECT_EQ(render.queue().entries().back().state, RenderEntry::State::Failed);
}

TEST_F(SoundTest, AMarkIsDrawnToAnOnset) {
  lay(hits());
  ASSERT_TRUE(until([&] { return sight().state.lanes[0].onsets.size() == 4; }));
  const double onset = sight().state.lanes[0].onsets[2];
  goTo(20);
  QTest::keyClick(&picture(), Qt::Key_M);
  ASSERT_TRUE(until([&] { return chart().sight().state.pace.has_value(); }));
  stillFor(40);
  // Three pixels beside it the mark is on it, to the sample; with Alt it is where the hand is.
  const QPointF mark = chart().sight().markPoint(0);
  const double aside = chart().sight().view.xOf(onset) + 3 - mark.x();
  drag(chart(), mark, mark + QPointF(aside, 0));
  EXPECT_NEAR(paceNow().beginOf(1).toDouble(), onset, 1e-6);
  EXPECT_GT(std::abs(std::remainder(onset * 30, 1)), 1e-3) << "which lies on no picture";
}

}  // namespace
}  // namespace molten::test
