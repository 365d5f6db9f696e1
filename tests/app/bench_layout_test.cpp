// The Bench's arrangement: where things stand, what moves them, and that all that is used daily is in sight.
#include <QDirIterator>
#include <QMenuBar>
#include <QScrollArea>

#include "app/bench/deck_split.h"
#include "app/chart/deck.h"
#include "app/playback/transport.h"
#include "app/sections/bands.h"
#include "app/sections/section_view.h"
#include "app/theme/theme.h"
#include "bench_fixture.h"
#include "support/random_chains.h"

namespace molten::test {
namespace {

class BenchLayout : public BenchTest {
 protected:
  std::string wideClip() {
    const std::string path = folder / "wide.mkv";
    if (!std::filesystem::exists(path)) makeNumberedClip(path, 24, {1280, 720}, "-c:v ffv1");
    return path;
  }
  Deck& deck() { return *bench->findChild<Deck*>(); }
  Bands& bands() { return *bench->findChild<Bands*>(); }
  DeckSplit& split() { return *bench->findChild<DeckSplit*>(); }
  QScrollArea& dialsFrame() { return *bench->findChild<QScrollArea*>("dialsFrame"); }
  QRect placeOf(QWidget& widget) { return {widget.mapTo(bench.get(), QPoint(0, 0)), widget.size()}; }
  /// Where everything stands that selecting must not move.
  std::vector<QRect> places() {
    std::vector<QRect> all{placeOf(picture()), placeOf(deck()), placeOf(chart()), placeOf(chain()),
                           placeOf(dialsFrame())};
    for (auto* const section : bench->findChildren<SectionView*>())
      all.push_back(section->isVisible() ? placeOf(*section) : QRect());
    return all;
  }
  void settle() {
    QCoreApplication::processEvents();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }
  /// What cannot be seen of the open cards without scrolling, in pixels.
  int hidden() {
    settle();
    return dialsFrame().widget()->minimumSizeHint().height() - dialsFrame().viewport()->height();
  }
};

TEST(Theme, EveryDrawnIconIsSeen) {
  QDirIterator icons(":/icons", {"*.svg"});
  int seen = 0;
  for (; icons.hasNext(); ++seen) {
    const QString path = icons.next();
    const QImage image = QIcon(path).pixmap(24).toImage();
    bool drawn = false;
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x) drawn |= image.pixelColor(x, y).alpha() > 0;
    EXPECT_TRUE(drawn) << path.toStdString() << ": Qt's plugin for SVG is missing";
  }
  EXPECT_GE(seen, 7);
}

TEST_F(BenchLayout, ThePictureHasItsShareOfTheWindow) {
  open(wideClip());
  ASSERT_TRUE(trigger("Time Field"));
  stillFor(100);
  ASSERT_TRUE(bands().shown());
  EXPECT_GE(picture().shownZoom(), 0.6) << "with Across and Down beside it";
  QTest::keyClick(&picture(), Qt::Key_D);
  ASSERT_TRUE(split().tall());
  EXPECT_GE(picture().shownZoom(), 0.5);
  EXPECT_GE(deck().height(), 200);
  QTest::keyClick(&picture(), Qt::Key_D);
  EXPECT_GE(picture().shownZoom(), 0.6);
}

TEST_F(BenchLayout, SelectingMovesNothing) {
  open(wideClip());
  for (const char* const stage : {"Pace", "Time Field", "Strips", "Echoes", "Loop"}) ASSERT_TRUE(trigger(stage));
  stillFor(100);
  const auto before = places();
  for (std::size_t tile = 0; tile < chain().tiles().size(); ++tile) {
    QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(tile).center());
    settle();
    EXPECT_EQ(places(), before) << "tile " << tile;
  }
}

TEST_F(BenchLayout, BeforeThereIsFootageTheMiddleIsTheInvitations) {
  EXPECT_FALSE(deck().isVisible());
  EXPECT_FALSE(dialsFrame().isVisible());
  for (auto* const section : bench->findChildren<SectionView*>()) EXPECT_FALSE(section->isVisible());
  auto& welcome = *bench->findChild<Welcome*>();
  EXPECT_EQ(welcome.width(), bench->width());
  EXPECT_EQ(placeOf(welcome).bottom() + 1, placeOf(*bench->findChild<Transport*>()).top());
  EXPECT_EQ(bench->menuBar()->cornerWidget(), nullptr) << "the title stands in the title bar alone";
  open(clip());
  EXPECT_TRUE(deck().isVisible() && dialsFrame().isVisible());
}

/// Both heights are remembered; the first Pace makes the deck tall, once.
TEST_F(BenchLayout, TheDeckIsLowOrTallAndRemembersBoth) {
  open(clip());
  ASSERT_FALSE(split().tall());
  const int low = deck().height();
  ASSERT_TRUE(trigger("Pace"));
  EXPECT_TRUE(split().tall());
  const int tall = deck().height();
  EXPECT_GT(tall, low + 40);
  QTest::keyClick(&picture(), Qt::Key_D);
  EXPECT_EQ(deck().height(), low);
  ASSERT_TRUE(trigger("Pace"));
  EXPECT_FALSE(split().tall()) << "a second Pace leaves it as it is";
  // The hand sets a height; the key brings each back.
  split().setSizes({split().height() - low - 44, low + 40});
  emit split().splitterMoved(split().height() - low - 44, 1);
  const int made = deck().height();
  QTest::keyClick(&picture(), Qt::Key_D);
  EXPECT_EQ(deck().height(), tall);
  QTest::keyClick(&picture(), Qt::Key_D);
  EXPECT_NEAR(deck().height(), made, 1);
}

/// Ruler, chart and lanes tell the same time at the same place, zoomed or not.
TEST_F(BenchLayout, TheDeckHasOneAxisOfTime) {
  open(clip());
  addTimeField();
  QTest::mouseClick(bench->findChild<QWidget*>("movement back"), Qt::LeftButton, Qt::ShiftModifier);
  goTo(30);
  const auto inLine = [&] {
    const double second = scrubber().xOf(30);
    EXPECT_NEAR(second, chart().sight().view.xOf(1), 1e-6);
    EXPECT_NEAR(second, deck().lanes()->sight().view.xOf(1), 1e-6);
    EXPECT_EQ(placeOf(scrubber()).left(), placeOf(chart()).left());
    EXPECT_EQ(placeOf(*deck().lanes()).left(), placeOf(chart()).left());
    // The playhead is one line through both.
    const QImage ruler = scrubber().grab().toImage(), plot = chart().grab().toImage();
    const int x = static_cast<int>(std::floor(second));
    EXPECT_EQ(ruler.pixelColor(x, 14), theme::now);
    EXPECT_EQ(plot.pixelColor(x, 1), theme::now);
  };
  inLine();
  // The wheel over the ruler and over a lane zooms all of it.
  for (QWidget* const lane : {static_cast<QWidget*>(&scrubber()), static_cast<QWidget*>(deck().lanes())}) {
    const double before = chart().sight().view.right - chart().sight().view.left;
    const QPointF at(lane->width() / 2.0, 8);
    QWheelEvent wheel(at, lane->mapToGlobal(at), {}, {0, 120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(lane, &wheel);
    EXPECT_NEAR(chart().sight().view.right - chart().sight().view.left, before / 1.25, 1e-9);
    inLine();
  }
  ASSERT_TRUE(trigger("All of the time in the deck"));
  EXPECT_EQ(chart().sight().view.left, 0);
}

/// Lanes leave the chart room to be read.
TEST_F(BenchLayout, ManyLanesLeaveTheChartItsRoom) {
  open(clip());
  addTimeField();
  for (const char* const id : {"movement start", "movement end", "movement back", "movement ahead"})
    QTest::mouseClick(bench->findChild<QWidget*>(id), Qt::LeftButton, Qt::ShiftModifier);
  ASSERT_EQ(deck().lanes()->sight().count(), 4u);
  EXPECT_GE(chart().height(), 60);
  QTest::keyClick(&picture(), Qt::Key_D);
  EXPECT_GE(chart().height(), 100);
}

/// Every stage, with each of its choices in turn: what stands on the daily cards is in sight at 1280 × 800, and what is
/// said on a card has room there.
TEST_F(BenchLayout, WhatIsUsedDailyIsInSight) {
  open(clip("clip.mkv", 24));
  RandomChains random(11, 24);
  for (const StageKind* kind : stageKinds()) {
    const StageDescription& described = kind->description();
    std::vector<Stage> ways{newStage(*kind)};
    for (std::size_t i = 0; i < described.parameters.size(); ++i)
      if (const auto* choices = std::get_if<ChoicesDescription>(&described.parameters[i].kind))
        for (std::size_t choice = 0; choice < choices->choices.size(); ++choice) {
          ways.push_back(newStage(*kind));
          ways.back().values[i] = choice;
        }
    for (int i = 0; i < 6; ++i) {
      Stage any = random.stage(*kind);
      any.keys.clear();
      ways.push_back(any);
    }
    for (const Stage& stage : ways) {
      bench->document().apply(setChain(project(), {stage}, "One"));
      QTest::keyClick(&picture(), Qt::Key_1);
      // What was measured of the one before may arrive meanwhile.
      EXPECT_TRUE(until([&] { return hidden() <= 0; })) << hidden() << " pixels of " << described.id << ", " << [&] {
        std::string values;
        for (std::size_t i = 0; i < stage.values.size(); ++i)
          if (isInUse(described, stage.values, i) && !(stage.values[i] == initialValue(described.parameters[i])))
            values += " " + described.parameters[i].id + "=" + valueText(described.parameters[i], stage.values[i]);
        return values;
      }();
      for (DialCard* const card : bench->findChildren<DialCard*>())
        EXPECT_FALSE(card->isVisible() && card->open() && card->saysTooMuch())
            << described.id << ", " << card->objectName().toStdString();
    }
  }
}

/// In the smallest window nothing of any card, open or folded, is cut off at the side.
TEST_F(BenchLayout, NothingIsCutOffInTheSmallestWindow) {
  open(clip("clip.mkv", 24));
  bench->resize(960, 600);
  RandomChains random(3, 24);
  for (const StageKind* kind : stageKinds())
    for (int round = 0; round < 5; ++round) {
      Stage any = round == 0 ? newStage(*kind) : random.stage(*kind);
      bench->document().apply(setChain(project(), {any}, "One"));
      QTest::keyClick(&picture(), Qt::Key_1);
      settle();
      openCards();
      settle();
      EXPECT_LE(dialsFrame().widget()->minimumSizeHint().width(), dialsFrame().viewport()->width())
          << kind->description().id;
      for (auto* const choice : dialsFrame().findChildren<QPushButton*>())
        EXPECT_TRUE(!choice->isVisible() ||
                    choice->width() >= choice->fontMetrics().horizontalAdvance(choice->text()) + 2)
            << choice->objectName().toStdString();
    }
  // The transport and the Chain have all of it, too.
  EXPECT_LE(bench->findChild<Transport*>()->minimumSizeHint().width(), 960);
  EXPECT_LT(chain().tileRect(chain().tiles().size() - 1).right(), 960);
}

/// A card that folds says how it stands, opens by a click or by a key, and stays open the next time.
TEST_F(BenchLayout, CardsFoldToALineThatSaysHowTheyStand) {
  open(clip());
  addTimeField();
  const auto card = [&] { return bench->findChild<DialCard*>("card Shaping"); };
  ASSERT_NE(card(), nullptr);
  EXPECT_FALSE(card()->open());
  EXPECT_FALSE(field("repeat").isVisible());
  EXPECT_EQ(card()->words(), "as it comes");
  QTest::mouseClick(card()->header(), Qt::LeftButton);
  EXPECT_TRUE(field("repeat").isVisible());
  field("repeat").setFocus();
  field("repeat").selectAll();
  QTest::keyClicks(&field("repeat"), "2,5");
  QTest::keyClick(&field("repeat"), Qt::Key_Return);
  QTest::mouseClick(bench->findChild<QPushButton*>("mirror"), Qt::LeftButton);
  EXPECT_EQ(card()->words(), "repeat 2.5 · mirror");
  ASSERT_TRUE(trigger("Echoes"));
  QTest::keyClick(&picture(), Qt::Key_1);
  settle();
  EXPECT_TRUE(card()->open());
  card()->header()->setFocus();
  QTest::keyClick(card()->header(), Qt::Key_Space);
  EXPECT_FALSE(card()->open());
}

/// Tab goes from the Chain to the Dials, then the deck, then the transport.
TEST_F(BenchLayout, TabGoesFromTheChainToTheDialsTheDeckAndTheTransport) {
  open(clip());
  addTimeField();
  const auto partOf = [&](QWidget* widget) {
    if (widget == &chain()) return 0;
    if (dialsFrame().isAncestorOf(widget)) return 1;
    if (deck().isAncestorOf(widget)) return 2;
    return bench->findChild<Transport*>()->isAncestorOf(widget) ? 3 : -1;
  };
  QTest::keyClick(&picture(), Qt::Key_1);
  chain().setFocus();
  std::vector<int> parts{0};
  int inDials = 0;
  for (int i = 0; i < 120 && parts.back() != 3; ++i) {
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    const int part = partOf(QApplication::focusWidget());
    inDials += part == 1;
    if (part != parts.back()) parts.push_back(part);
  }
  EXPECT_EQ(parts, (std::vector<int>{0, 1, 2, 3}));
  EXPECT_GT(inDials, 12);
  // From the Picture, too, the Dials are next.
  picture().setFocus();
  QTest::keyClick(&picture(), Qt::Key_Tab);
  EXPECT_EQ(partOf(QApplication::focusWidget()), 1);
}

/// Bands are as high as the hand made them, and are so the next time.
TEST_F(BenchLayout, BandsAreMadeLargerByHand) {
  open(clip());
  addTimeField();
  auto* const across = bands().findChildren<SectionView*>()[0];
  const int before = across->height();
  const QPoint grip(bands().width() / 3, across->y() - 2);
  QTest::mousePress(&bands(), Qt::LeftButton, {}, grip);
  QMouseEvent move(QEvent::MouseMove, QPointF(grip.x(), grip.y() - 40),
                   bands().mapToGlobal(QPointF(grip.x(), grip.y() - 40)), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(&bands(), &move);
  QTest::mouseRelease(&bands(), Qt::LeftButton);
  EXPECT_NEAR(across->height(), before + 40, 4);
  const int made = across->height();
  makeBench();
  open(clip());
  addTimeField();
  EXPECT_EQ(bands().findChildren<SectionView*>()[0]->height(), made);
}

}  // namespace
}  // namespace molten::test
