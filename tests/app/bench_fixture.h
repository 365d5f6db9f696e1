#pragma once
// A real window with footage in it, driven by mouse and keys.

#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QPushButton>
#include <QSettings>
#include <QTest>
#include <cmath>

#include "app/bench/bench.h"
#include "app/playback/player.h"
#include "app/chart/scrubber.h"
#include "app/bench/welcome.h"
#include "app/chain/chain_bar.h"
#include "app/chart/chart_plot.h"
#include "app/chart/chart_prompt.h"
#include "app/dials/dial_card.h"
#include "app/dials/dials.h"
#include "app/picture/picture_view.h"
#include "app/render/render_dialog.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten::test {

class BenchTest : public ::testing::Test {
 protected:
  BenchTest() {
    QSettings().clear();
    makeBench();
  }

  void makeBench() {
    BenchOptions options;
    options.queueFolder = QString::fromStdString(listFolder / "list");
    options.autosaveFolder = QString::fromStdString(folder / "autosave");
    options.starterFolder = QString::fromStdString(folder / "starters");
    options.memoryBytes = memory;
    options.askQuestions = false;
    options.ask = [this](const QString&, const QString& sentence, const QStringList& answers) {
      asked << sentence;
      return static_cast<int>(answers.indexOf(answer) < 0 ? 0 : answers.indexOf(answer));
    };
    bench = std::make_unique<Bench>(options);
    QObject::connect(&bench->player(), &Player::pictureReady, [this](const QImage&, const QImage&, const Shown& about) {
      shownView = about.view;
    });
    bench->resize(1280, 800);
    bench->show();
    bench->activateWindow();
    QTest::qWait(30);
  }

  /// Waits until a condition holds; at most ten seconds, under sanitizers a minute.
  template <class Condition>
  bool until(Condition condition) {
#ifdef MOLTEN_SANITIZED
    constexpr int most = 6000;
#else
    constexpr int most = 1000;
#endif
    for (int i = 0; i < most && !condition(); ++i) QTest::qWait(10);
    return condition();
  }

  std::string clip(const char* name = "clip.mkv", int frames = 60) {
    const std::string path = folder / name;
    if (!std::filesystem::exists(path)) makeNumberedClip(path, frames, {320, 180}, "-c:v ffv1");
    return path;
  }

  void open(const std::string& path) {
    bench->openPath(QString::fromStdString(path));
    ASSERT_TRUE(until([&] { return bench->footage() && !picture().image().isNull(); }));
    stillFor(60);
  }

  /// Until what is asked for is shown and no new picture has come for a while. What cannot be shown is not waited for.
  void stillFor(int milliseconds) {
    bool came = true;
    const auto connection = QObject::connect(bench.get(), &Bench::pictureShown, [&] { came = true; });
    const auto awaited = [&] {
      return bench->footage() && !bench->player().playing() && picture().state().message.isEmpty() &&
             shownView && !(*shownView == bench->player().view());
    };
    for (int i = 0; came || (awaited() && i < 100); ++i) {
      came = false;
      QTest::qWait(milliseconds);
    }
    QObject::disconnect(connection);
  }

  void addTimeField() {
    ASSERT_TRUE(trigger("Time Field"));
    stillFor(80);
  }

  bool trigger(const QString& name) {
    for (QAction* action : bench->findChildren<QAction*>())
      if (action->text().remove('&') == name && action->isEnabled()) {
        action->trigger();
        return true;
      }
    return false;
  }

  PictureView& picture() { return *bench->findChild<PictureView*>(); }
  ChainBar& chain() { return *bench->findChild<ChainBar*>(); }
  Scrubber& scrubber() { return *bench->findChild<Scrubber*>(); }
  const Project& project() { return bench->document().project(); }
  QLineEdit& field(const char* name) { return *bench->findChild<Dials*>()->findChild<QLineEdit*>(name); }
  QPushButton& button(const char* name) { return *bench->findChild<QPushButton*>(name); }

  ChartPlot& chart() { return *bench->findChild<ChartPlot*>(); }
  /// The Pace of the chain, on what enters it.
  PaceCurve paceNow() {
    for (std::size_t k = 0; k < project().chain.size(); ++k)
      if (project().chain[k].kind == &pace())
        return paceCurve(project().chain[k].values, videoAt(project().chain, k, bench->footage()->video()));
    return {0, {{bench->footage()->video().seconds(), 1, 0, 0}}};
  }
  Piece pieceNow() { return pieceOf(project(), bench->footage()->video()); }
  /// Goes to a frame by the scrub line.
  void goTo(std::int64_t frame) {
    QTest::mouseClick(&scrubber(), Qt::LeftButton, {}, QPoint(qRound(scrubber().xOf(frame)), 4));
  }
  /// Types into the field that is open on the chart; gives what it says will happen.
  QString type(const QString& text) {
    ChartPrompt* prompt = chart().openPrompt();
    if (!prompt) return "no field is open";
    prompt->field()->selectAll();
    QTest::keyClicks(prompt->field(), text);
    const QString effect = prompt->effectShown();
    QTest::keyClick(prompt->field(), Qt::Key_Return);
    QTest::qWait(10);
    return effect;
  }

  /// What is said beside a field about what was typed into it.
  QString sentence() {
    const auto* const label = bench->findChild<QLabel*>("sentence");
    return label && label->isVisible() ? label->text() : QString();
  }
  /// All cards of the Dials are open.
  void openCards() {
    for (DialCard* const card : bench->findChildren<DialCard*>()) card->setOpen(true);
  }
  double back() { return valueOf<double>(project().chain[0], "back"); }

  /// The number that the picture on the screen shows.
  int shownNumber() {
    const QImage image = picture().grab().toImage();
    const QPointF from = picture().toWidget({0, 0}), to = picture().toWidget({1, 1});
    int number = 0;
    for (int bit = 0; bit < 16; ++bit) {
      // A little off the middle of each block, where handles are.
      const double x = from.x() + (to.x() - from.x()) * (bit % 4 * 2 + 0.8) / 8,
                   y = from.y() + (to.y() - from.y()) * (bit / 4 * 2 + 1) / 8;
      if (qGray(image.pixel(static_cast<int>(x), static_cast<int>(y))) > 128) number |= 1 << bit;
    }
    return number;
  }

  /// Waits until the screen shows a number.
  ::testing::AssertionResult shows(int number) {
    if (until([&] { return shownNumber() == number; })) return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << "shown is " << shownNumber() << ", not " << number;
  }

  /// What a field of 1 s back from top to bottom shows of frame n: each row of blocks is from a frame of its own.
  static int numberInField(int n) {
    int number = 0;
    for (int row = 0; row < 4; ++row) {
      const int frame = n - 30 + static_cast<int>(std::floor(30 * (row * 2 + 1) / 8.0 + 0.5));
      number |= frame & (15 << (row * 4));
    }
    return number;
  }

  void drag(QWidget& widget, QPointF from, QPointF to) {
    QTest::mousePress(&widget, Qt::LeftButton, {}, from.toPoint());
    for (int i = 1; i <= 5; ++i) {
      const QPointF at = from + (to - from) * i / 5;
      QMouseEvent move(QEvent::MouseMove, at, widget.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
      QApplication::sendEvent(&widget, &move);
      QTest::qWait(5);
    }
    QTest::mouseRelease(&widget, Qt::LeftButton, {}, to.toPoint());
  }

  TempFolder listFolder;  // of renders
  TempFolder folder;
  std::size_t memory = std::size_t(1) << 29;
  QString answer;     ///< to what is asked: one of the answers, or else the first
  QStringList asked;  ///< sentences
  std::optional<View> shownView;  ///< of the picture that is there
  std::unique_ptr<Bench> bench;
};

}  // namespace molten::test
