// Through a sound server, once for real: what the window plays is what its monitor hears.
#include <QProcess>
#include <QStandardPaths>
#include <cstring>

#include "app/chart/deck.h"
#include "app/sound/sound_lanes.h"
#include "bench_fixture.h"
#include "core/project/sound_edits.h"

namespace molten::test {
namespace {

/// A PulseAudio server of our own, whose one device plays into nothing.
class SilentServer {
 public:
  SilentServer() : socket_(folder_ / "socket") {
#ifdef MOLTEN_SANITIZED
    return;  // they do not follow threads over the fork that starts the server
#endif
    there_ = !QStandardPaths::findExecutable("pulseaudio").isEmpty() && !QStandardPaths::findExecutable("parec").isEmpty();
    if (!there_) return;
    was_ = qgetenv("MOLTEN_SOUND");
    qputenv("MOLTEN_SOUND", "machine");
    // So much is on its way to it: a machine that is busy elsewhere leaves no hole.
    qputenv("PULSE_LATENCY_MSEC", "400");
    qputenv("PULSE_SERVER", "unix:" + QByteArray::fromStdString(socket_));
    QProcessEnvironment around = QProcessEnvironment::systemEnvironment();
    for (const char* name : {"HOME", "XDG_RUNTIME_DIR", "XDG_CONFIG_HOME"}) around.insert(name, QString::fromStdString(folder_ / ""));
    server_.setProcessEnvironment(around);
    server_.start("pulseaudio", {"-n", "--daemonize=no", "--exit-idle-time=-1", "-L",
                                 "module-null-sink sink_name=quiet format=float32le rate=48000 channels=2", "-L",
                                 "module-native-protocol-unix auth-anonymous=1 socket=" + QString::fromStdString(socket_)});
    ears_.setProcessEnvironment(around);
    for (int i = 0; i < 500 && !std::filesystem::exists(socket_); ++i) QTest::qWait(20);
  }
  ~SilentServer() {
    for (QProcess* const process : {&ears_, &server_}) process->kill(), process->waitForFinished();
    if (there_) qputenv("MOLTEN_SOUND", was_), qunsetenv("PULSE_SERVER"), qunsetenv("PULSE_LATENCY_MSEC");
  }
  bool isThere() const { return there_; }
  void listen() {
    ears_.start("parec", {"-d", "quiet.monitor", "--format=float32le", "--rate=48000", "--channels=2", "--latency-msec=20"});
  }
  /// The left channel so far.
  const std::vector<float>& heard() {
    bytes_ += ears_.readAllStandardOutput();
    const std::size_t samples = static_cast<std::size_t>(bytes_.size()) / (2 * sizeof(float));
    while (left_.size() < samples) {
      float value = 0;
      std::memcpy(&value, bytes_.constData() + left_.size() * 2 * sizeof(float), sizeof value);
      left_.push_back(value);
    }
    return left_;
  }

 private:
  TempFolder folder_;
  std::string socket_;
  bool there_ = false;
  QByteArray was_, bytes_;
  QProcess server_, ears_;
  std::vector<float> left_;
};

/// The server is there before the window is.
class DeviceTest : protected SilentServer, public BenchTest {};

TEST_F(DeviceTest, TheMonitorHearsWhatIsLaidRoundAndRoundToTheSample) {
  if (!isThere()) GTEST_SKIP() << "install pulseaudio and pulseaudio-utils; without sanitizers";
  // A click and what rings on of it, in a piece of two seconds that goes round.
  const auto made = runCommand("ffmpeg -v error -y -f lavfi -i \"aevalsrc='0.8*sin(2*PI*440*t)*exp(-6*t)|0':s=48000:d=1\" -c:a pcm_f32le " +
                               (folder / "ring.wav"));
  ASSERT_EQ(made.exitCode, 0) << made.err;
  open(clip());
  bench->document().apply(layInSounds(project(), {folder / "ring.wav"}, 0.5));
  auto& lanes = *bench->findChild<SoundLanes*>();
  ASSERT_TRUE(until([&] { return lanes.sight().count() == 1 && lanes.sight().state.lanes[0].feed; }));
  stillFor(40);
  listen();
  ASSERT_TRUE(until([&] { return !heard().empty(); })) << "the server is there";
  QTest::keyClick(&picture(), Qt::Key_Space);
  const auto first = [&](std::size_t from) {
    const auto& all = heard();
    for (std::size_t i = from; i < all.size(); ++i)
      if (std::abs(all[i]) > 0.01) return i;
    return all.size();
  };
  const auto value = [](std::size_t i) {
    const double t = static_cast<double>(i) / soundRate;
    return 0.8 * std::sin(2 * M_PI * 440 * t) * std::exp(-6 * t);
  };
  // The sample of it at which it is first that loud.
  std::size_t begun = 0;
  while (std::abs(value(begun)) <= 0.01) ++begun;
  const auto soundsAt = [&](std::size_t at) {
    for (std::size_t i = 0; i < soundRate; ++i)
      if (std::abs(heard()[at + i] - value(i)) > 1e-4) return false;
    return true;
  };
  // A machine that is busy elsewhere for longer than what is on its way makes a hole: then it is listened to for longer.
  constexpr std::size_t round = 2 * soundRate;
  bool twice = false;
  for (std::size_t at = 0; !twice && at < 30 * soundRate; at = first(at) + soundRate) {
    ASSERT_TRUE(until([&] { return heard().size() > first(at) + round + soundRate; })) << heard().size();
    const std::size_t one = first(at) - begun;
    twice = soundsAt(one) && soundsAt(one + round);
  }
  EXPECT_TRUE(twice) << heard().size() << " samples heard";
}

}  // namespace
}  // namespace molten::test
