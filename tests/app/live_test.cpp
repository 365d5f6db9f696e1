// The Bench on a camera: what is seen, said, recorded and kept.

#include <QComboBox>
#include <QMenu>
#include <QRegularExpression>

#include "app/bench/bench.h"
#include "app/chart/deck.h"
#include "app/live/clean_window.h"
#include "app/live/live_call.h"
#include "app/live/live_keeping.h"
#include "app/live/live_panel.h"
#include "app/live/live_room.h"
#include "app/live/ring_bar.h"
#include "bench_fixture.h"
#include "core/picture/number_bars.h"

namespace molten::test {
namespace {

class LiveTest : public BenchTest {
 protected:
  static CameraChoice small() {
    CameraChoice camera;
    camera.size = Size{320, 240};
    camera.rate = 30;
    camera.troubles.numbered = true;
    return camera;
  }
  /// On the simulated camera, once it shows pictures.
  void goLive(const CameraChoice& camera = small()) {
    bench->live().begin(camera);
    ASSERT_TRUE(until([&] { return bench->live().run()->state().shown > 3; }));
  }
  LivePanel& panel() { return *bench->findChild<LivePanel*>(); }
  QString words(const char* name) { return panel().findChild<QLabel*>(name)->toolTip().isEmpty() ? panel().findChild<QLabel*>(name)->text() : panel().findChild<QLabel*>(name)->toolTip(); }
  LiveState state() { return bench->live().run()->state(); }
  void choose(const char* name, int entry) {
    for (QComboBox* box : panel().findChildren<QComboBox*>())
      if (box->accessibleName() == name) {
        box->setCurrentIndex(entry);
        emit box->activated(entry);
        return;
      }
    FAIL() << "no " << name;
  }
  void openSaved() {
    open(clip());
    ASSERT_TRUE(bench->document().save(QString::fromStdString(folder / "film.molten")));
  }
  void addStage(const std::string& text) {
    Project with = project();
    ASSERT_TRUE(appendStage(with.chain, text, 30));
    bench->document().apply({"Add", with, {}});
  }
  std::vector<std::string> filesWith(const std::string& part) {
    std::vector<std::string> all;
    for (const std::string& name : folder.names())
      if (name.find(part) != std::string::npos) all.push_back(folder / name);
    return all;
  }
  /// What a column of the shown picture says, in parts of its width; none: it cannot be read.
  std::optional<std::uint32_t> numberShownAt(const QImage& image, double across) {
    if (image.isNull()) return std::nullopt;
    const int bar = numberBarWidth({320, 240});
    std::uint32_t number = 0;
    for (int k = 0; k < numberBits; ++k) {
      const double y = (240 - k * bar - bar / 2.0) / 240 * image.height();
      if (qGray(image.pixel(static_cast<int>(across * image.width()), static_cast<int>(y))) > 128) number |= 1u << k;
    }
    return number;
  }
};

TEST_F(LiveTest, NothingIsOpenAndItRuns) {
  ASSERT_TRUE(trigger("Live on a camera"));
  ASSERT_TRUE(until([&] { return state().shown > 3; }));
  EXPECT_TRUE(panel().isVisible());
  EXPECT_FALSE(bench->findChild<Deck*>()->isVisible());
  EXPECT_FALSE(picture().image().isNull());
  EXPECT_TRUE(until([&] { return words("liveLine").contains("1280 × 720 at 30"); })) << words("liveLine").toStdString();
  EXPECT_TRUE(until([&] { return bench->footage() != nullptr; })) << "there is something for the chain to be set on";
  ASSERT_TRUE(trigger("Live on a camera"));
  EXPECT_FALSE(bench->live().on());
  EXPECT_FALSE(panel().isVisible());
  EXPECT_TRUE(bench->findChild<Deck*>()->isVisible());
}

TEST_F(LiveTest, EditsActOnWhatRunsAndUndoTakesThemBack) {
  open(clip());
  goLive();
  const auto differ = [&] {
    const QImage& image = picture().image();
    return numberShownAt(image, 0.3) != numberShownAt(image, 0.9);
  };
  EXPECT_FALSE(differ());
  addStage("strips:count=2,stagger=12f");
  EXPECT_TRUE(until(differ));
  EXPECT_NEAR(state().reach.back, 0.4, 1e-6);
  bench->document().undoStack().undo();
  EXPECT_TRUE(until([&] { return state().reach.back == 0 && !differ(); }));
}

TEST_F(LiveTest, WhatCannotRunIsSaidAndLeftOut) {
  open(clip());
  ASSERT_TRUE(trigger("Loop"));
  goLive();
  EXPECT_TRUE(until([&] { return words("liveTrouble").contains("A Loop needs an end"); })) << words("liveTrouble").toStdString();
  EXPECT_GT(state().shown, 3);
}

TEST_F(LiveTest, WhyAChainGivesNoPictureIsSaidForAsLongAsItIsSo) {
  open(clip());
  goLive();
  addStage("insert:source=" + (folder / "not-there.mp4"));
  ASSERT_TRUE(until([&] { return !state().chainTrouble.empty(); }));
  // Frames that come meanwhile do not take it away.
  const auto came = state().arrived();
  ASSERT_TRUE(until([&] { return state().arrived() > came + 5; }));
  EXPECT_NE(state().chainTrouble.find("not-there.mp4"), std::string::npos);
  EXPECT_TRUE(until([&] { return words("liveTrouble").contains("not-there.mp4"); })) << words("liveTrouble").toStdString();
  bench->document().undoStack().undo();
  EXPECT_TRUE(until([&] { return state().chainTrouble.empty(); }));
}

TEST_F(LiveTest, AClipIsLaidOverTheCamera) {
  open(clip());
  goLive();
  addStage("insert:source=" + clip() + ",scale=50%");
  const auto shown = state().shown;
  EXPECT_TRUE(until([&] { return state().shown > shown + 10; }));
  EXPECT_TRUE(state().chainTrouble.empty()) << state().chainTrouble;
}

TEST_F(LiveTest, TheRingsShareGoesWithTheBudget) {
  open(clip());
  goLive();
  ASSERT_TRUE(trigger("0.5 GB"));
  EXPECT_TRUE(until([&] { return state().ring.mayHold == std::size_t(500'000'000) / 3; }));
}

TEST_F(LiveTest, TheCleanWindowFillsTheScreenAndEscapeLeaves) {
  open(clip());
  goLive();
  ASSERT_TRUE(trigger("Full screen"));
  CleanWindow& clean = bench->live().cleanWindow();
  ASSERT_TRUE(until([&] { return clean.isVisible() && clean.isFullScreen(); }));
  EXPECT_EQ(clean.cursor().shape(), Qt::BlankCursor);
  const auto leftAndRight = [&] {
    // The bars at the picture's left edge are black and white; the wall at the right is neither.
    const QImage image = clean.grab().toImage().convertToFormat(QImage::Format_RGB32);
    const double wide = image.height() * 4.0 / 3, left = (image.width() - wide) / 2;
    const auto sharp = [&](double from) {
      int changes = 0, last = -1;
      for (int x = static_cast<int>(from); x < from + wide * 0.14; ++x) {
        const int bright = qGray(image.pixel(std::clamp(x, 0, image.width() - 1), image.height() / 3)) > 128;
        changes += last >= 0 && bright != last;
        last = bright;
      }
      return changes > 0;
    };
    return std::pair(sharp(left), sharp(left + wide * 0.86));
  };
  EXPECT_TRUE(until([&] { return leftAndRight() == std::pair(true, false); }));
  ASSERT_TRUE(trigger("Mirrored"));
  EXPECT_TRUE(until([&] { return leftAndRight() == std::pair(false, true); }));
  QTest::keyClick(&clean, Qt::Key_Escape);
  EXPECT_FALSE(clean.isVisible());
  EXPECT_TRUE(bench->live().on()) << "it goes on on the Bench";
}

TEST_F(LiveTest, ATurnedPictureStandsUpright) {
  open(clip());
  goLive();
  CleanWindow& clean = bench->live().cleanWindow();
  clean.setTurned(90);
  bench->live().fillScreen();
  // The bars of the lower edge are at the left then.
  EXPECT_TRUE(until([&] {
    const QImage image = clean.grab().toImage();
    const double high = std::min<double>(image.height(), image.width() * 4.0 / 3), wide = high * 3 / 4;
    int changes = 0, last = -1;
    for (int x = static_cast<int>((image.width() - wide) / 2); x < image.width() / 2.0 - wide * 0.32; ++x) {
      const int bright = qGray(image.pixel(x, image.height() / 2)) > 128;
      changes += last >= 0 && bright != last;
      last = bright;
    }
    return changes > 0;
  }));
  bench->live().end();
  EXPECT_FALSE(clean.isVisible());
}

TEST_F(LiveTest, RecordsWhatIsShownAndWhatComesIn) {
  openSaved();
  goLive();
  QTest::mouseClick(&button("recordShown"), Qt::LeftButton);
  QTest::mouseClick(&button("recordIncoming"), Qt::LeftButton);
  LiveKeeping& keeping = bench->live().keeping();
  ASSERT_TRUE(until([&] { return keeping.line().contains(QRegularExpression("shown: (0\\.[5-9]|[1-9])")) && keeping.line().contains("comes in"); })) << keeping.line().toStdString();
  EXPECT_TRUE(until([&] { return button("recordShown").text() == "Stop recording what is shown"; }));
  QTest::mouseClick(&button("recordShown"), Qt::LeftButton);
  QTest::mouseClick(&button("recordIncoming"), Qt::LeftButton);
  ASSERT_TRUE(until([&] { return picture().state().corner.contains("recorded: "); }));
  bench->live().end();
  for (const char* const which : {"film live", "film camera"}) {
    const auto files = filesWith(which);
    ASSERT_EQ(files.size(), 1u) << which;
    const auto recorded = Footage::open(files[0], {}, {}, {});
    ASSERT_TRUE(recorded) << recorded.error().message;
    EXPECT_GE((*recorded)->clock().length(), 12);
    const auto reader = (*recorded)->newReader(1);
    const auto first = (*reader)->read(0, {}, {}), second = (*reader)->read(1, {}, {});
    ASSERT_TRUE(first && second);
    ASSERT_TRUE(numberInColumn(*first, 200));
    EXPECT_GT(*numberInColumn(*second, 200), *numberInColumn(*first, 200));
  }
}

TEST_F(LiveTest, TheLastSecondsBecomeFootage) {
  openSaved();
  addTimeField();
  goLive();
  ASSERT_TRUE(until([&] { return state().ring.held > 0.5; }));
  QTest::mouseClick(&button("keepLast"), Qt::LeftButton);
  ASSERT_TRUE(until([&] { return !bench->live().on() && project().source.path.find("film kept") != std::string::npos && bench->footage(); }));
  EXPECT_EQ(project().chain.size(), 1u) << "the chain goes on on it";
  EXPECT_EQ(bench->footage()->shape().size, (Size{320, 240}));
  EXPECT_GE(bench->footage()->clock().length(), 15);
  bench->document().undoStack().undo();
  EXPECT_EQ(project().source.path, clip());
}

TEST_F(LiveTest, AStillOfNow) {
  openSaved();
  goLive();
  QTest::mouseClick(&button("still"), Qt::LeftButton);
  ASSERT_TRUE(until([&] { return !filesWith("film still").empty() && picture().state().corner.contains("still of now"); }));
  const QImage image(QString::fromStdString(filesWith("film still")[0]));
  EXPECT_EQ(image.size(), QSize(320, 240));
}

TEST_F(LiveTest, TheRingIsSetByItsDials) {
  open(clip());
  goLive();
  auto* seconds = panel().findChild<QLineEdit*>("ringSeconds");
  seconds->setFocus();
  seconds->selectAll();
  QTest::keyClicks(seconds, "much");
  QTest::keyClick(seconds, Qt::Key_Return);
  EXPECT_EQ(state().ring.wanted, 20);
  seconds->selectAll();
  QTest::keyClicks(seconds, "0.5 s");
  QTest::keyClick(seconds, Qt::Key_Return);
  EXPECT_TRUE(until([&] { return state().ring.wanted == 0.5; }));
  EXPECT_TRUE(until([&] { return state().ring.held > 0.45; }));
  EXPECT_LE(state().ring.held, 0.5 + 1e-9);
  choose("Keeps", 1);
  EXPECT_TRUE(until([&] { return state().ring.frames > 2 && state().ring.frames <= 10; }));
  choose("As large", 1);
  EXPECT_TRUE(until([&] { return bench->live().run()->ring() && bench->live().run()->ring()->scale() == 2; }));
  const auto shown = state().shown;
  EXPECT_TRUE(until([&] { return state().shown > shown + 3; }));
  // A chain that reaches further than the ring is told so.
  addStage("time-field:back=3s");
  EXPECT_TRUE(until([&] { return panel().findChild<RingBar*>()->words().contains("needs 3.0 s") || panel().findChild<RingBar*>()->words().contains("needs 2.9 s"); }));
  EXPECT_TRUE(panel().findChild<RingBar*>()->words().contains("Let it hold more")) << panel().findChild<RingBar*>()->words().toStdString();
}

TEST_F(LiveTest, WhatAClipWouldReadOutsideIsNotSpokenOf) {
  open(clip());
  addStage("time-field:back=1s");
  const Session& session = *bench->findChild<Session*>();
  ASSERT_TRUE(until([&] { return !session.outside().empty(); }));
  goLive();
  EXPECT_TRUE(session.outside().empty());
  bench->live().end();
  EXPECT_FALSE(session.outside().empty());
}

TEST_F(LiveTest, ACameraThatComesOffIsFoundAgain) {
  open(clip());
  CameraChoice camera = small();
  camera.troubles.comesOffAfter = 0.3;
  goLive(camera);
  EXPECT_TRUE(until([&] { return words("liveTrouble").contains("has come off. It is looked for."); })) << words("liveTrouble").toStdString();
  EXPECT_TRUE(until([&] { return state().found >= 2; }));
}

TEST_F(LiveTest, AnotherCameraIsTakenWhileItRuns) {
  open(clip());
  goLive();
  emit panel().cameraChosen(CameraChoice{clip()});
  EXPECT_TRUE(until([&] { return state().there && state().size == Size{320, 180}; }));
  EXPECT_TRUE(until([&] { return picture().image().width() > 0 && std::abs(picture().image().width() * 9 - picture().image().height() * 16) < 32; }));
}

TEST_F(LiveTest, ClosingTheWindowEndsTheRecordingWhole) {
  openSaved();
  goLive();
  QTest::mouseClick(&button("recordShown"), Qt::LeftButton);
  ASSERT_TRUE(until([&] { return bench->live().keeping().line().contains(QRegularExpression("0\\.[3-9]")); }));
  bench.reset();
  const auto files = filesWith("film live");
  ASSERT_EQ(files.size(), 1u);
  const auto recorded = Footage::open(files[0], {}, {}, {});
  ASSERT_TRUE(recorded);
  EXPECT_GE((*recorded)->clock().length(), 8);
}

TEST(LiveCall, SaysHowTheWindowBegins) {
  const auto call = callOf({"--live", "simulated", "film.molten", "--full-screen", "--camera-size", "1920x1080", "--camera-rate", "29.97", "--late", "5%", "--lost", "2",
                            "--irregular", "--mirror", "--turn", "270", "--screen", "2", "--record", "take.mp4", "--status", "json", "--wait-for-camera"});
  ASSERT_TRUE(call) << call.error().message;
  EXPECT_EQ(call->open, "film.molten");
  EXPECT_TRUE(call->fullScreen && call->mirrored);
  EXPECT_EQ(call->turned, 270);
  EXPECT_EQ(call->screen, 1);
  ASSERT_TRUE(call->camera);
  EXPECT_EQ(call->camera->id, simulatedCamera);
  EXPECT_EQ(call->camera->size, (Size{1920, 1080}));
  EXPECT_EQ(call->camera->rate, Rational(30000, 1001));
  EXPECT_DOUBLE_EQ(call->camera->troubles.late, 0.05);
  EXPECT_DOUBLE_EQ(call->camera->troubles.lost, 0.02);
  EXPECT_TRUE(call->camera->troubles.irregular);
  EXPECT_TRUE(call->statusJson && call->waitForCamera);
  const auto plain = callOf({"film.molten"});
  ASSERT_TRUE(plain);
  EXPECT_FALSE(plain->camera);
}

TEST(LiveCall, RefusesWhatItDoesNotUnderstandInASentence) {
  for (const QStringList& words : std::vector<QStringList>{{"--live"},
                                                           {"--live", "simulated", "--camera-size", "big"},
                                                           {"--live", "simulated", "--camera-rate", "0"},
                                                           {"--live", "simulated", "--late", "200"},
                                                           {"--live", "simulated", "--lost", "100"},
                                                           {"--live", "simulated", "--turn", "45"},
                                                           {"--live", "simulated", "--screen", "0"},
                                                           {"--full-screen"},
                                                           {"--status", "json"},
                                                           {"--live", "simulated", "--status", "poem"},
                                                           {"--live", "simulated", "--record", "take.gif"},
                                                           {"--wrong"},
                                                           {"one.molten", "two.molten"}}) {
    const auto call = callOf(words);
    ASSERT_FALSE(call) << words.join(' ').toStdString();
    EXPECT_TRUE(call.error().message.ends_with('.')) << call.error().message;
  }
}

}  // namespace
}  // namespace molten::test
