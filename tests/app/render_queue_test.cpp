// Renders that go on while one works: their order, progress, ends, and what is done with what they wrote.
#include <QScrollArea>
#include <QScrollBar>
#include <cerrno>

#include "core/files/disk.h"
#include "app/render/render_actions.h"
#include "render_fixture.h"

namespace molten {
namespace {

class RenderQueueInTheWindow : public test::RenderTest {
 protected:
  /// Asks for a render of what is open.
  void ask(const std::string& name, const std::string& codec = "ffv1") {
    openDialog();
    chooseCodec(codec);
    setPlace(name);
    ASSERT_TRUE(begins());
  }
  bool allOver() {
    return until([&] { return !isGoingOn(); });
  }
  /// By what is seen from above to below.
  int placeOf(const QString& name) {
    int place = 0;
    for (auto* row : rows()) place += row->y() < rowOf(name)->y();
    return place;
  }
  RenderRow* rowOf(const QString& name) {
    for (auto* row : rows())
      if (row->findChild<QLabel*>("state")->text().contains(name)) return row;
    return nullptr;
  }
  QString stateOf(const QString& name) { return rowOf(name) ? rowOf(name)->findChild<QLabel*>("state")->text() : QString(); }
  QPushButton& onTransport() { return *bench->findChild<QPushButton*>("rendering"); }
};

/// One at a time, in the order in which they were asked for, each as the chain was then; the window goes on working.
TEST_F(RenderQueueInTheWindow, OneRunsTheOthersWaitAndAllAreWritten) {
  open(clip("long.mkv", 1200));
  ask("first.mkv");
  addTimeField();
  bench->document().apply(setSpan(project(), 0, 419, "In and out"));
  ask("second.mkv");
  ask("third.mkv");
  EXPECT_TRUE(state(0).startsWith("Rendering first.mkv")) << state(0).toStdString();
  EXPECT_EQ(state(1), "second.mkv waits");
  EXPECT_EQ(state(2), "third.mkv waits");
  EXPECT_TRUE(until([&] { return rowSays("detail", 0).contains("of 1200") && rowSays("detail", 0).contains("left"); }));
  EXPECT_TRUE(onTransport().isVisible());
  EXPECT_TRUE(onTransport().text().contains("2 wait")) << onTransport().text().toStdString();
  // The Bench takes other work meanwhile.
  goTo(300);
  EXPECT_TRUE(shows(numberInField(300)));
  ASSERT_TRUE(allOver());
  for (std::size_t k : {0, 1, 2}) EXPECT_TRUE(state(k).endsWith("is written"));
  EXPECT_FALSE(onTransport().isVisible());
  EXPECT_EQ(test::numberShown(written("first.mkv")[400]), 400);
  EXPECT_EQ(test::numberShown(written("second.mkv")[400]), numberInField(400));
}

/// Cancel answers at once, leaves no result, and the next one begins.
TEST_F(RenderQueueInTheWindow, WhatRunsAndWhatWaitsCanBeCancelled) {
  open(clip("long.mkv", 900));
  ask("never.mkv");
  ask("nor-this.mkv");
  ask("but-this.mkv");
  ASSERT_TRUE(until([&] { return isThere("never"); })) << "under its temporary name";
  click(rowButton("cancel", 1));
  EXPECT_EQ(state(1), "nor-this.mkv: cancelled, nothing was written");
  click(rowButton("cancel", 0));
  EXPECT_EQ(state(0), "Cancelling never.mkv");
  ASSERT_TRUE(until([&] { return state(2).startsWith("Rendering"); }));
  EXPECT_EQ(state(0), "never.mkv: cancelled, nothing was written");
  EXPECT_FALSE(std::filesystem::exists(folder / "never.mkv"));
  click(rowButton("remove", 0));
  ASSERT_TRUE(until([&] { return !isThere("never"); })) << "its pieces go with it";
  ASSERT_TRUE(allOver());
  EXPECT_FALSE(isThere("nor-this"));
  EXPECT_EQ(written("but-this.mkv").size(), 900u);
}

/// A disk that fills up: said in the list and in the window, nothing of it stays, and Again has its settings.
TEST_F(RenderQueueInTheWindow, WhatFailsIsSaidAndCanBeTriedAgain) {
  open(clip("clip.mkv", 12));
  addTimeField();
  for (const disk::Call call : {disk::Call::Create, disk::Call::Write, disk::Call::Sync, disk::Call::Rename}) {
    const disk::Faults faults([=](disk::Call made, const std::string& path) {
      return made == call && path.find("result.mkv") != std::string::npos ? ENOSPC : 0;
    });
    ask("result.mkv");
    ASSERT_TRUE(allOver());
    EXPECT_EQ(state(), "result.mkv was not rendered");
    EXPECT_TRUE(detail().contains("There is no room left for result.mkv")) << detail().toStdString();
    EXPECT_TRUE(picture().state().corner.contains("There is no room left"));
    EXPECT_FALSE(isThere("result"));
  }
  const std::size_t before = rows().size();
  // As it was asked for, whatever the chain is now.
  bench->document().apply(setChain(project(), {}, "Empty"));
  click(rowButton("again"));
  ASSERT_TRUE(form().isVisible());
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "result.mkv"));
  EXPECT_EQ(codec(), "ffv1");
  click(renderButton());
  ASSERT_TRUE(until([&] { return !form().isVisible(); }));
  ASSERT_TRUE(allOver());
  EXPECT_EQ(rows().size(), before) << "in place of the one that failed";
  EXPECT_EQ(test::numberShown(written("result.mkv")[11]), numberInField(11) & 0xf000);
}

/// Two renders never write to one place, and what has come to be there meanwhile is not replaced unasked.
TEST_F(RenderQueueInTheWindow, WhatIsNotAgreedToIsNotReplaced) {
  open(clip("long.mkv", 1200));
  ask("first.mkv");
  openDialog();
  setPlace("first.mkv");
  EXPECT_TRUE(words("notes").contains("first.mkv is being rendered already")) << words("notes").toStdString();
  EXPECT_FALSE(renderButton().isEnabled());
  bench->findChild<RenderDialog*>()->close();
  ask("second.mkv");
  std::ofstream(folder / "second.mkv") << "somebody else's";
  ASSERT_TRUE(allOver());
  EXPECT_TRUE(state(0).endsWith("is written"));
  EXPECT_EQ(state(1), "second.mkv was not rendered");
  EXPECT_TRUE(detail().contains("second.mkv has come to be there since")) << detail().toStdString();
  EXPECT_EQ(*readWhole(folder / "second.mkv", 100), "somebody else's");
}

/// A result is opened as footage; what waits and would be written over it then is not.
TEST_F(RenderQueueInTheWindow, AResultIsOpenedAsFootageAndIsSafeFromThenOn) {
  open(clip("long.mkv", 1200));
  addTimeField();
  bench->document().apply(setSpan(project(), 0, 99, "In and out"));
  ask("result.mkv");
  ASSERT_TRUE(allOver());
  bench->document().apply(setSpan(project(), 0, 1199, "In and out"));
  ask("other.mkv");
  ask("result.mkv");
  EXPECT_EQ(asked.back(), "result.mkv is there already.");
  click(rowButton("openAsFootage", 0));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path().ends_with("result.mkv"); }));
  EXPECT_TRUE(project().chain.empty());
  goTo(40);
  EXPECT_TRUE(shows(numberInField(40)));
  ASSERT_TRUE(allOver());
  EXPECT_EQ(state(), "result.mkv was not rendered");
  EXPECT_TRUE(detail().contains("part of what the project reads")) << detail().toStdString();
}

TEST_F(RenderQueueInTheWindow, StillsAreOpenedAsFootageAndTimeMapsAreNot) {
  open(clip("clip.mkv", 6));
  addTimeField();
  openDialog();
  chooseWhat(1);
  setPlace("map-%05d.png");
  ASSERT_TRUE(renders());
  EXPECT_FALSE(rowButton("openAsFootage").isVisible());
  openDialog();
  chooseCodec("png");
  setPlace("s-%05d.png");
  ASSERT_TRUE(renders());
  click(rowButton("openAsFootage"));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->isStills(); }));
  EXPECT_EQ(bench->footage()->clock().frameCount(), 6);
}

/// A time map that was cancelled is asked for again as one.
TEST_F(RenderQueueInTheWindow, ATimeMapIsOneAgain) {
  open(clip("long.mkv", 1200));
  addTimeField();
  openDialog();
  chooseWhat(2);
  setPlace("map-%05d.tif");
  chooseCodec("tiff16");
  ASSERT_TRUE(begins());
  click(rowButton("cancel"));
  ASSERT_TRUE(allOver());
  click(rowButton("again"));
  EXPECT_EQ(box("what").currentIndex(), 2);
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "map-%05d.tif"));
  EXPECT_EQ(codec(), "tiff16");
}

TEST_F(RenderQueueInTheWindow, WhatIsOverIsRemovedWhatGoesOnStays) {
  open(clip("long.mkv", 600));
  openDialog();
  bench->document().apply(setSpan(project(), 0, 2, "In and out"));
  bench->findChild<RenderDialog*>()->close();
  ask("short.mkv");
  ASSERT_TRUE(allOver());
  bench->document().apply(setSpan(project(), 0, 599, "In and out"));
  ask("long-one.mkv");
  click(*list().findChild<QPushButton*>("clear"));
  ASSERT_EQ(rows().size(), 1u);
  EXPECT_TRUE(state(0).contains("long-one.mkv"));
  ASSERT_TRUE(allOver());
  EXPECT_TRUE(isThere("short.mkv")) << "the file stays";
}

/// The list is closed and brought back from the transport; what is written that nobody watches is said in the window.
TEST_F(RenderQueueInTheWindow, WhatIsWrittenUnseenIsSaidInTheWindow) {
  open(clip("long.mkv", 1200));
  ask("unseen.mkv");
  list().close();
  click(onTransport());
  EXPECT_TRUE(list().isVisible());
  list().close();
  ASSERT_TRUE(until([&] { return picture().state().corner.contains("unseen.mkv is written"); }));
  EXPECT_FALSE(onTransport().isVisible());
}

/// The window is closed in the middle of it: the next one goes on where it was, with all that waited.
TEST_F(RenderQueueInTheWindow, TheNextWindowGoesOn) {
  open(clip("long.mkv", 900));
  ask("first.mkv");
  ask("second.mkv");
  ASSERT_TRUE(until([&] { return rowSays("detail", 0).contains("of 900"); }));
  bench.reset();
  EXPECT_FALSE(std::filesystem::exists(folder / "second.mkv"));
  makeBench();
  ASSERT_TRUE(until([&] { return rows().size() == 2; }));
  ASSERT_TRUE(allOver());
  for (std::size_t k : {0, 1}) EXPECT_TRUE(state(k).endsWith("is written")) << state(k).toStdString();
  EXPECT_EQ(test::numberShown(written("first.mkv")[400]), 400);
  EXPECT_EQ(written("second.mkv").size(), 900u);
  EXPECT_FALSE(isThere(".pieces"));
}

/// One that is paused lets the next one begin, and goes on with what it had.
TEST_F(RenderQueueInTheWindow, OneIsPausedMovedAndGoesOn) {
  open(clip("long.mkv", 900));
  ask("first.mkv");
  ask("second.mkv");
  ask("third.mkv");
  ASSERT_TRUE(until([&] { return rowSays("detail", 0).contains("of 900"); }));
  click(rowButton("pause", 0));
  EXPECT_EQ(state(0), "first.mkv is paused");
  EXPECT_EQ(rowButton("pause", 0).text(), "Go on");
  ASSERT_TRUE(until([&] { return state(1).startsWith("Rendering"); }));
  click(rowButton("pause", 2));
  EXPECT_EQ(state(2), "third.mkv is paused");
  click(rowButton("earlier", 2));
  ASSERT_TRUE(until([&] { return stateOf("third.mkv") == "third.mkv is paused" && list().findChildren<RenderRow*>().size() == 3; }));
  ASSERT_TRUE(until([&] { return placeOf("third.mkv") == 1; }));
  ASSERT_TRUE(until([&] { return stateOf("second.mkv").endsWith("is written"); }));
  EXPECT_FALSE(isThere("third"));
  for (auto* row : rows())
    if (auto* pause = row->findChild<QPushButton*>("pause"); pause->isVisible() && pause->text() == "Go on") click(*pause);
  ASSERT_TRUE(allOver());
  for (const char* name : {"first.mkv", "second.mkv", "third.mkv"}) EXPECT_EQ(written(name).size(), 900u) << name;
}

/// What a GIF's colours are is known when its last picture is: it is gone through once more, and can be left until then.
TEST_F(RenderQueueInTheWindow, WhatAFileIsFinishedByIsSeenAndCancelled) {
  open(clip("long.mkv", 300));
  ask("loop.gif", "gif");
  ASSERT_TRUE(until([&] { return rowSays("detail", 0).startsWith("finishing the file · ") && rowSays("detail", 0).endsWith("s left"); }));
  click(rowButton("cancel", 0));
  ASSERT_TRUE(allOver());
  EXPECT_EQ(state(0), "loop.gif: cancelled, nothing was written");
  EXPECT_EQ(detail(), "300 of 300 pictures are rendered, and kept until this is removed");
  click(rowButton("pause", 0));
  ASSERT_TRUE(allOver());
  EXPECT_EQ(state(0), "loop.gif is written") << detail().toStdString();
}

/// By the keyboard: whatever becomes of a render, the key that was pressed last does no harm when it is pressed again.
TEST_F(RenderQueueInTheWindow, FocusAndButtonsStayWhereTheyAre) {
  open(clip("long.mkv", 900));
  ask("first.mkv");
  ask("second.mkv");
  ASSERT_TRUE(until([&] { return rowSays("detail", 0).contains("of 900"); }));
  list().activateWindow();
  auto &pause = rowButton("pause", 0), &cancel = rowButton("cancel", 0);
  const QRect pausePlace = pause.geometry(), cancelPlace = cancel.geometry();
  pause.setFocus();
  QTest::keyClick(&pause, Qt::Key_Space);
  EXPECT_EQ(state(0), "first.mkv is paused");
  EXPECT_EQ(QApplication::focusWidget(), &pause);
  QTest::qWait(0);
  EXPECT_EQ(pause.geometry(), pausePlace);
  EXPECT_EQ(cancel.geometry(), cancelPlace);
  QTest::keyClick(&pause, Qt::Key_Space);
  EXPECT_FALSE(state(0).contains("paused"));
  // Cancelled by the keyboard: the focus is on the way back, in the same row.
  ASSERT_TRUE(until([&] { return state(0).startsWith("Rendering") || state(1).startsWith("Rendering"); }));
  cancel.setFocus();
  QTest::keyClick(&cancel, Qt::Key_Space);
  ASSERT_TRUE(until([&] { return state(0).contains("cancelled"); }));
  EXPECT_EQ(QApplication::focusWidget(), &pause);
  EXPECT_EQ(pause.text(), "Go on");
  QTest::keyClick(&pause, Qt::Key_Space);
  ASSERT_TRUE(allOver());
  EXPECT_EQ(state(0), "first.mkv is written");
  // No button of a result stands where one of the way to it stood.
  for (const char* name : {"open", "openFolder", "openAsFootage", "remove"})
    for (const QRect& before : {pausePlace, cancelPlace}) EXPECT_FALSE(rowButton(name, 0).geometry().intersects(before)) << name;
  EXPECT_EQ(written("first.mkv").size(), 900u);
}

TEST_F(RenderQueueInTheWindow, ANewRenderScrollsIntoView) {
  open(clip("clip.mkv", 6));
  for (const char* name : {"a.mkv", "b.mkv", "c.mkv", "d.mkv", "e.mkv", "f.mkv"}) ask(name);
  ASSERT_TRUE(allOver());
  auto& scroll = *list().findChild<QScrollArea*>();
  scroll.verticalScrollBar()->setValue(0);
  ask("last.mkv");
  ASSERT_TRUE(until([&] { return !rowOf("last.mkv")->visibleRegion().isEmpty(); }));
}

/// Formats, sizes and stretches of one project, one after another without leaving the form.
TEST_F(RenderQueueInTheWindow, SeveralOutputsAreAskedForInOneGo) {
  open(clip("clip.mkv", 60));
  openDialog();
  auto& another = *form().findChild<QPushButton*>("another");
  auto& stretch = *form().findChild<QLineEdit*>("stretch");
  chooseCodec("ffv1");
  setPlace("result.mkv");
  click(another);
  ASSERT_TRUE(until([&] { return rows().size() == 1; }));
  EXPECT_TRUE(form().isVisible());
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "result-2.mkv"));
  stretch.setText("9-5");
  EXPECT_TRUE(words("notes").contains("The frames are none")) << words("notes").toStdString();
  EXPECT_FALSE(another.isEnabled());
  stretch.setText("10-19");
  ASSERT_TRUE(saysOfIt("10 pictures"));
  click(another);
  ASSERT_TRUE(until([&] { return rows().size() == 2; }));
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "result-3.mkv"));
  stretch.clear();
  box("size").setEditText("32 × 32");
  chooseCodec("png");
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "result-3-%05d.png"));
  ASSERT_TRUE(saysOfIt("32 × 32"));
  click(renderButton());
  ASSERT_TRUE(until([&] { return !form().isVisible() && rows().size() == 3; }));
  ASSERT_TRUE(allOver());
  EXPECT_EQ(written("result.mkv").size(), 60u);
  ASSERT_EQ(written("result-2.mkv").size(), 10u);
  EXPECT_EQ(test::numberShown(written("result-2.mkv")[0]), 10);
  EXPECT_TRUE(isThere("result-3-00059.png"));
}

/// The command line puts into the same list, and the window does it.
TEST_F(RenderQueueInTheWindow, WhatTheCommandLineAddsIsRendered) {
  const std::string source = clip("clip.mkv", 60);
  const auto added = test::runCommand("MOLTEN_QUEUE=" + (listFolder / "list") + " " + MOLTEN_RENDER + " " + source + " --stage time-field -o " + (folder / "added.mkv") + " --queue");
  ASSERT_EQ(added.exitCode, 0) << added.err;
  ASSERT_TRUE(until([&] { return rows().size() == 1; }));
  ASSERT_TRUE(allOver());
  EXPECT_EQ(state(), "added.mkv is written");
  EXPECT_EQ(written("added.mkv").size(), 60u);
}

/// What is played comes first: while it is, the picture count stands.
TEST_F(RenderQueueInTheWindow, PlayingTakesPrecedence) {
  open(clip("long.mkv", 900));
  QTest::keyClick(bench.get(), Qt::Key_Space);
  ASSERT_TRUE(until([&] { return bench->player().playing(); }));
  RenderSettings job;
  job.footage = bench->footage();
  job.project = project();
  job.project.output.path = folder / "result.mkv";
  job.memoryBytes = memory / 2;
  auto& queue = const_cast<RenderQueue&>(bench->findChild<RenderActions*>()->queue());
  queue.add(job, "900 pictures");
  ASSERT_TRUE(until([&] { return queue.running() && queue.running()->progress.done > 0; }));
  const auto done = queue.running()->progress.done;
  int played = 0;
  QObject::connect(&bench->player(), &Player::frameReached, [&] { ++played; });
  ASSERT_TRUE(until([&] { return played > 20; }));
  EXPECT_LE(queue.running()->progress.done, done + 1);
  QTest::keyClick(bench.get(), Qt::Key_Space);
  ASSERT_TRUE(until([&] { return !queue.busy(); }));
  EXPECT_EQ(written("result.mkv").size(), 900u);
}

}  // namespace
}  // namespace molten
