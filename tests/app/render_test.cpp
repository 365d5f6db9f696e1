// Rendering from the window: what is chosen, what is said of it before, and what is then written.
#include <QInputDialog>
#include <QTimer>

#include "render_fixture.h"

namespace molten {
namespace {

class RenderWindow : public test::RenderTest {};

TEST_F(RenderWindow, GivesThePicturesOfTheCommandLine) {
  open(clip());
  addTimeField();
  button("in-between=mixed").click();
  openDialog();
  chooseCodec("ffv1");
  EXPECT_TRUE(place().text().endsWith(".mkv"));
  setPlace("window.mkv");
  EXPECT_TRUE(until([&] { return words("summary").contains("60 pictures, 2.00 s · 320 × 180 · 30 fps · FFV1"); }));
  ASSERT_TRUE(renders());
  EXPECT_EQ(state(), "window.mkv is written");
  EXPECT_TRUE(rowButton("openFolder").isVisible());
  ASSERT_EQ(test::runCommand(std::string(MOLTEN_RENDER) + " " + clip() +
                             " --stage time-field:back=1s --between mixed -o " + folder / "line.mkv")
                .exitCode,
            0);
  const auto window = test::readAll(*test::openFootage(folder / "window.mkv")),
             line = test::readAll(*test::openFootage(folder / "line.mkv"));
  ASSERT_EQ(window.size(), line.size());
  for (std::size_t i = 0; i < line.size(); ++i) EXPECT_TRUE(test::samePicture(window[i], line[i]));
}

TEST_F(RenderWindow, AnImpossiblePlaceIsSaid) {
  open(clip());
  openDialog();
  setPlace("no/such/place.mp4");
  EXPECT_TRUE(saysOfIt("does not exist", "notes"));
  EXPECT_FALSE(renderButton().isEnabled());
  setPlace("place.mp4");
  EXPECT_TRUE(until([&] { return renderButton().isEnabled() && words("notes").isEmpty(); }));
}

TEST_F(RenderWindow, PicturesAndTimeMapsHaveTheirOwn) {
  open(clip("clip.mkv", 6));
  addTimeField();
  openDialog();
  setPlace("film.mkv");
  chooseCodec("ffv1");
  chooseWhat(1);
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "film-time-map-%05d.png"));
  EXPECT_EQ(codec(), "png16");
  setPlace("map-%05d.tif");
  chooseCodec("tiff16");
  chooseWhat(0);
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "film.mkv"));
  EXPECT_EQ(codec(), "ffv1");
  chooseWhat(2);
  ASSERT_TRUE(renders());
  // The next time, each is where it was.
  openDialog();
  EXPECT_FALSE(place().text().contains("map"));
  chooseWhat(1);
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "map-%05d.tif"));
  EXPECT_EQ(codec(), "tiff16");
}

TEST_F(RenderWindow, StillsThatAreThereAreNotReplacedUnasked) {
  open(clip("clip.mkv", 6));
  openDialog();
  chooseCodec("png");
  setPlace("s-%03d.png");
  ASSERT_TRUE(renders());
  EXPECT_TRUE(asked.isEmpty());
  addTimeField();
  const auto before = *readWhole(folder / "s-003.png", 1 << 20);
  openDialog();
  setPlace("s-%03d.png");
  EXPECT_TRUE(saysOfIt("6 stills are there already, s-000.png to s-005.png.", "notes"));
  answer = "Cancel";
  click(renderButton());
  ASSERT_TRUE(until([&] { return asked.size() == 1; }));
  EXPECT_EQ(asked[0], "6 stills are there already, s-000.png to s-005.png.");
  EXPECT_TRUE(form().isVisible());
  EXPECT_EQ(rows().size(), 1u);
  EXPECT_EQ(*readWhole(folder / "s-003.png", 1 << 20), before);
  answer = "Replace them";
  ASSERT_TRUE(renders());
  EXPECT_NE(*readWhole(folder / "s-003.png", 1 << 20), before);
}

/// Each kind of file by its name in the box: the name's ending follows, and what is written is what was said.
TEST_F(RenderWindow, EveryKindOfFileIsWrittenUnderItsEnding) {
  open(clip("clip.mkv", 5));
  for (const CodecDescription& kind : codecs()) {
    openDialog();
    chooseCodec(kind.id);
    EXPECT_TRUE(
        std::any_of(kind.extensions.begin(), kind.extensions.end(),
                    [&](const std::string& ending) { return place().text().endsWith(QString::fromStdString(ending)); }))
        << kind.id << place().text().toStdString();
    EXPECT_EQ(place().text().contains('%'), kind.stills) << kind.id;
    EXPECT_EQ(form().findChild<QSpinBox*>("quality")->isEnabled(), kind.qualityDefault >= 0);
    const std::string name = kind.id + (kind.stills ? "-%05d" : "") + kind.extensions[0];
    setPlace(name);
    EXPECT_TRUE(saysOfIt("5 pictures, 0.17 s · 320 × 180 · 30 fps · " + QString::fromStdString(kind.label)));
    EXPECT_TRUE(renders()) << kind.id;
    EXPECT_EQ(rowButton("openAsFootage").isVisible(), kind.readable) << kind.id;
    if (!kind.readable) {
      // A picture a chunk.
      const std::string bytes = *readWhole(folder / name, 1 << 20);
      int pictures = 0;
      for (auto at = bytes.find("ANMF"); at != std::string::npos; at = bytes.find("ANMF", at + 1)) ++pictures;
      EXPECT_EQ(pictures, 5) << kind.id;
      continue;
    }
    const auto written = test::openFootage(folder / (kind.stills ? kind.id + "-00000" + kind.extensions[0] : name));
    ASSERT_TRUE(written) << kind.id;
    EXPECT_EQ(written->clock().frameCount(), kind.stills ? 1 : 5) << kind.id;
    EXPECT_EQ(written->shape().size, (Size{320, 180})) << kind.id;
  }
}

/// What it is for sets format, quality and size; one's own are kept, also for the next time, and go again.
TEST_F(RenderWindow, WhatItIsForSetsTheRest) {
  open(clip("clip.mkv", 5));
  openDialog();
  const auto choosePreset = [&](const QString& name) {
    box("preset").setCurrentText(name);
    emit box("preset").activated(box("preset").currentIndex());
  };
  choosePreset("A loop on a page");
  EXPECT_EQ(codec(), "gif");
  EXPECT_TRUE(saysOfIt("160 × 90"));
  choosePreset("A master");
  EXPECT_EQ(codec(), "ffv1");
  EXPECT_TRUE(saysOfIt("320 × 180"));
  chooseCodec("vp9");
  form().findChild<QSpinBox*>("quality")->setValue(40);
  box("size").setCurrentIndex(1);
  box("preset").setCurrentIndex(0);
  QTimer::singleShot(0, [] {
    auto* input = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
    ASSERT_TRUE(input);
    input->setTextValue("The wall");
    input->accept();
  });
  auto& keep = *form().findChild<QPushButton*>("keepPreset");
  click(keep);
  EXPECT_EQ(box("preset").currentText(), "The wall");
  form().close();
  openDialog();
  chooseCodec("h264");
  choosePreset("The wall");
  EXPECT_EQ(codec(), "vp9");
  EXPECT_EQ(form().findChild<QSpinBox*>("quality")->value(), 40);
  EXPECT_TRUE(saysOfIt("160 × 90"));
  auto& remove = *form().findChild<QPushButton*>("keepPreset");
  EXPECT_EQ(remove.text(), "Remove");
  click(remove);
  EXPECT_EQ(box("preset").findText("The wall"), -1);
  EXPECT_NE(box("preset").findText("A master"), -1);
}

TEST_F(RenderWindow, AnEndingThatIsTypedIsKeptWhereTheKindHasIt) {
  open(clip("clip.mkv", 5));
  openDialog();
  setPlace("deep/film.final.mkv");
  chooseCodec("h264");
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "deep/film.final.mkv")) << "H.264 stands in .mkv too";
  chooseCodec("png");
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "deep/film.final-%05d.png"));
  chooseCodec("vp9");
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "deep/film.final.webm"));
}

/// Size, kind and quality are the project's afterwards, in its file and the next time; they are no step of undo.
TEST_F(RenderWindow, WhatWasChosenIsRemembered) {
  open(clip("clip.mkv", 6));
  addTimeField();
  const int steps = bench->document().undoStack().count();
  openDialog();
  chooseCodec("h264");
  form().findChild<QSpinBox*>("quality")->setValue(31);
  box("size").setCurrentIndex(1);
  setPlace("small.mp4");
  EXPECT_TRUE(saysOfIt("160 × 90"));
  ASSERT_TRUE(renders());
  EXPECT_EQ(test::openFootage(folder / "small.mp4")->shape().size, (Size{160, 90}));
  EXPECT_EQ(bench->document().undoStack().count(), steps);
  ASSERT_TRUE(bench->document().save(QString::fromStdString(folder / "a.molten")));
  const auto saved = loadProject(folder / "a.molten");
  ASSERT_TRUE(saved);
  EXPECT_EQ(saved->output.quality, 31);
  EXPECT_EQ(saved->output.size, (Size{160, 90}));
  bench.reset();
  makeBench();
  open(folder / "a.molten");
  openDialog();
  EXPECT_EQ(codec(), "h264");
  EXPECT_EQ(form().findChild<QSpinBox*>("quality")->value(), 31);
  EXPECT_TRUE(box("size").currentText().startsWith("160 × 90"));
  EXPECT_EQ(place().text(), QString::fromStdString(folder / "small.mp4"));
}

TEST_F(RenderWindow, OnlyFromInToOutIsWrittenAndSaid) {
  open(clip());
  bench->document().apply(setSpan(project(), 12, 20, "In and out"));
  openDialog();
  chooseCodec("ffv1");
  setPlace("part.mkv");
  EXPECT_TRUE(saysOfIt("9 pictures, 0.30 s"));
  ASSERT_TRUE(renders());
  const auto frames = test::readAll(*test::openFootage(folder / "part.mkv"));
  ASSERT_EQ(frames.size(), 9u);
  EXPECT_EQ(test::numberShown(frames.front()), 12);
  EXPECT_EQ(test::numberShown(frames.back()), 20);
}

/// Work goes on in the window meanwhile; what is written is what was there when Render was pressed.
TEST_F(RenderWindow, WhatIsEditedMeanwhileIsNotInIt) {
  open(clip("long.mkv", 400));
  addTimeField();
  openDialog();
  chooseCodec("ffv1");
  setPlace("before.mkv");
  ASSERT_TRUE(begins());
  bench->document().apply(setChain(project(), {}, "Empty"));
  ASSERT_TRUE(until([&] { return !isGoingOn(); }));
  const auto frames = test::readAll(*test::openFootage(folder / "before.mkv"));
  ASSERT_EQ(frames.size(), 400u);
  for (const int n : {60, 399}) EXPECT_EQ(test::numberShown(frames[static_cast<std::size_t>(n)]), numberInField(n));
}

/// Damaged footage: rendered all the same, and the dialog's last word says how much of it was damaged.
TEST_F(RenderWindow, DamageThatWasMetIsSaidAtTheEnd) {
  const std::string path = folder / "hurt.mkv";
  test::makeNumberedClip(path, 30, {320, 180}, "-c:v ffv1 -level 3 -slices 4 -slicecrc 1");
  {
    std::fstream file(path, std::ios::in | std::ios::out | std::ios::binary);
    const auto size = static_cast<std::streamoff>(std::filesystem::file_size(path));
    for (int i = 0; i < 40; ++i) {
      file.seekp(size / 2 + i);
      file.put('\x55');
    }
  }
  open(path);
  openDialog();
  chooseCodec("ffv1");
  setPlace("result.mkv");
  ASSERT_TRUE(renders());
  EXPECT_TRUE(detail().contains("damaged")) << detail().toStdString();
  EXPECT_EQ(test::readAll(*test::openFootage(folder / "result.mkv")).size(), 30u);
}

/// A size that is typed, odd or none at all; sizes are said as they will be.
TEST_F(RenderWindow, SizesAreTypedAndSaid) {
  open(clip("clip.mkv", 5));
  openDialog();
  chooseCodec("h264");
  box("size").setEditText("101x57");
  EXPECT_TRUE(saysOfIt("100 × 56"));
  EXPECT_TRUE(saysOfIt("even", "notes"));
  for (const char* none : {"", "wide", "0 × 10", "12 ×", "-5 × 7", "999999 × 1"}) {
    box("size").setEditText(none);
    EXPECT_FALSE(renderButton().isEnabled()) << none;
    EXPECT_TRUE(words("notes").contains("1280 × 720")) << none;
    EXPECT_TRUE(words("summary").isEmpty());
  }
  box("size").setEditText("64 * 36");
  EXPECT_TRUE(saysOfIt("64 × 36"));
  EXPECT_TRUE(renderButton().isEnabled());
}

/// Over what the project reads nothing is written, whatever it is called there.
TEST_F(RenderWindow, TheFootageIsNeverWrittenOver) {
  const std::string path = clip("clip.mkv", 5);
  open(path);
  std::filesystem::create_hard_link(path, folder / "other-name.mkv");
  const std::string before = *readWhole(path, 1 << 24);
  openDialog();
  chooseCodec("ffv1");
  for (const char* name : {"clip.mkv", "other-name.mkv"}) {
    setPlace(name);
    EXPECT_TRUE(saysOfIt("part of what the project reads", "notes")) << name;
    EXPECT_TRUE(until([&] { return !renderButton().isEnabled(); })) << name;
  }
  EXPECT_EQ(*readWhole(path, 1 << 24), before);
  setPlace("elsewhere.mkv");
  EXPECT_TRUE(renders());
}

/// By keys alone: Ctrl+R, Return; Escape closes the form and the list.
TEST_F(RenderWindow, IsWorkedByKeysAlone) {
  open(clip("clip.mkv", 5));
  QTest::keyClick(&picture(), Qt::Key_R, Qt::ControlModifier);
  QTest::keyClick(&form(), Qt::Key_Escape);
  EXPECT_FALSE(form().isVisible());
  QTest::keyClick(&picture(), Qt::Key_R, Qt::ControlModifier);
  chooseCodec("ffv1");
  setPlace("keys.mkv");
  QTest::keyClick(&place(), Qt::Key_Return);
  ASSERT_TRUE(until([&] { return !rows().empty() && state().endsWith("is written"); }));
  EXPECT_TRUE(list().isVisible());
  QTest::keyClick(&list(), Qt::Key_Escape);
  EXPECT_FALSE(list().isVisible());
  bench->activateWindow();
  ASSERT_TRUE(until([&] { return bench->isActiveWindow(); }));
  QTest::keyClick(&picture(), Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(list().isVisible());
  EXPECT_EQ(written("keys.mkv").size(), 5u);
}

}  // namespace
}  // namespace molten
