// Rendering from the window: what is chosen, what is said of it before, and what is then written.
#include <QSpinBox>

#include "bench_fixture.h"
#include "core/files/read_file.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

class RenderWindow : public test::BenchTest {
 protected:
  void openDialog() {
    ASSERT_TRUE(trigger("Render…"));
    auto* found = bench->findChild<RenderDialog*>();
    ASSERT_TRUE(found && found->isVisible());
  }
  RenderDialog& form() { return *bench->findChild<RenderDialog*>(); }
  QLineEdit& place() { return *form().findChild<QLineEdit*>("place"); }
  QComboBox& box(const char* name) { return *form().findChild<QComboBox*>(name); }
  void setPlace(const std::string& name) { place().setText(QString::fromStdString(folder / name)); }
  void chooseWhat(int what) { box("what").setCurrentIndex(what); }
  void chooseCodec(const std::string& id) {
    box("codec").setCurrentIndex(box("codec").findData(QString::fromStdString(id)));
  }
  QString codec() { return box("codec").currentData().toString(); }
  QString words(const char* label) { return form().findChild<QLabel*>(label)->text(); }
  void click(const char* button) { QTest::mouseClick(form().findChild<QPushButton*>(button), Qt::LeftButton); }
  /// Waits until the summary of what would be written says this.
  ::testing::AssertionResult saysOfIt(const QString& part, const char* label = "summary") {
    if (until([&] { return words(label).contains(part); })) return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << words(label).toStdString();
  }
  ::testing::AssertionResult renders() {
    click("render");
    if (until([&] { return !form().running(); }) && words("state").endsWith("is written"))
      return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << (words("state") + " " + words("detail")).toStdString();
  }
};

TEST_F(RenderWindow, GivesThePicturesOfTheCommandLine) {
  open(clip());
  addTimeField();
  button("in-between=mixed").click();
  openDialog();
  chooseCodec("ffv1");
  EXPECT_TRUE(place().text().endsWith(".mkv"));
  setPlace("window.mkv");
  EXPECT_TRUE(until([&] {
    return words("summary").contains("60 pictures, 2.00 s · 320 × 180 · 30 fps · FFV1");
  }));
  click("render");
  ASSERT_TRUE(until([&] { return !form().running(); }));
  EXPECT_EQ(words("state"), "window.mkv is written");
  EXPECT_TRUE(form().findChild<QPushButton*>("openFolder")->isVisible());
  ASSERT_EQ(test::runCommand(std::string(MOLTEN_RENDER) + " " + clip() +
                             " --stage time-field:back=1s --between mixed -o " + folder / "line.mkv")
                .exitCode,
            0);
  const auto window = test::readAll(*test::openFootage(folder / "window.mkv")),
             line = test::readAll(*test::openFootage(folder / "line.mkv"));
  ASSERT_EQ(window.size(), line.size());
  for (std::size_t i = 0; i < line.size(); ++i) EXPECT_TRUE(test::samePicture(window[i], line[i]));
}

TEST_F(RenderWindow, CancelAnswersAtOnceAndLeavesNothing) {
  open(clip("long.mkv", 900));
  openDialog();
  setPlace("never.mp4");
  click("render");
  // Under its temporary name.
  const auto begun = [&] {
    const auto names = folder.names();
    return std::any_of(names.begin(), names.end(), [](auto& name) { return name.find("never") != std::string::npos; });
  };
  ASSERT_TRUE(until(begun));
  click("cancel");
  ASSERT_TRUE(until([&] { return !form().running(); }));
  EXPECT_TRUE(words("state").startsWith("Cancelled"));
  for (const auto& name : folder.names()) EXPECT_EQ(name.find("never"), std::string::npos) << name;
}

TEST_F(RenderWindow, AnImpossiblePlaceIsSaid) {
  open(clip());
  openDialog();
  setPlace("no/such/place.mp4");
  click("render");
  ASSERT_TRUE(until([&] { return !form().running(); }));
  EXPECT_TRUE(words("detail").contains("does not exist"));
  form().findChild<QComboBox*>("size")->setEditText("wide");
  EXPECT_FALSE(form().findChild<QPushButton*>("render")->isEnabled());
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
  form().accept();
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
  form().accept();
  addTimeField();
  const auto before = *readWhole(folder / "s-003.png", 1 << 20);
  openDialog();
  setPlace("s-%03d.png");
  EXPECT_TRUE(until([&] {
    return words("notes").contains("6 stills of these names are there already.");
  }));
  answer = "Cancel";
  click("render");
  ASSERT_TRUE(until([&] { return !form().running(); }));
  ASSERT_EQ(asked.size(), 1);
  EXPECT_EQ(asked[0], "6 of the 6 stills are there already.");
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
    EXPECT_TRUE(std::any_of(kind.extensions.begin(), kind.extensions.end(), [&](const std::string& ending) {
      return place().text().endsWith(QString::fromStdString(ending));
    })) << kind.id << place().text().toStdString();
    EXPECT_EQ(place().text().contains('%'), kind.stills) << kind.id;
    EXPECT_EQ(form().findChild<QSpinBox*>("quality")->isEnabled(), kind.qualityDefault >= 0);
    const std::string name = kind.id + (kind.stills ? "-%05d" : "") + kind.extensions[0];
    setPlace(name);
    EXPECT_TRUE(saysOfIt("5 pictures, 0.17 s · 320 × 180 · 30 fps · " + QString::fromStdString(kind.label)));
    EXPECT_TRUE(renders()) << kind.id;
    const auto written = test::openFootage(folder / (kind.stills ? kind.id + "-00000" + kind.extensions[0] : name));
    ASSERT_TRUE(written) << kind.id;
    EXPECT_EQ(written->clock().frameCount(), kind.stills ? 1 : 5) << kind.id;
    EXPECT_EQ(written->shape().size, (Size{320, 180})) << kind.id;
    form().accept();
  }
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
  form().accept();
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
  click("render");
  ASSERT_TRUE(until([&] { return words("state").startsWith("Rendering"); }));
  bench->document().apply(setChain(project(), {}, "Empty"));
  ASSERT_TRUE(until([&] { return !form().running(); }));
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
  EXPECT_TRUE(words("detail").contains("damaged")) << words("detail").toStdString();
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
    EXPECT_FALSE(form().findChild<QPushButton*>("render")->isEnabled()) << none;
    EXPECT_TRUE(words("notes").contains("1280 × 720")) << none;
    EXPECT_TRUE(words("summary").isEmpty());
  }
  box("size").setEditText("64 * 36");
  EXPECT_TRUE(saysOfIt("64 × 36"));
  EXPECT_TRUE(form().findChild<QPushButton*>("render")->isEnabled());
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
    EXPECT_TRUE(until([&] { return !form().findChild<QPushButton*>("render")->isEnabled(); })) << name;
  }
  EXPECT_EQ(*readWhole(path, 1 << 24), before);
  setPlace("elsewhere.mkv");
  EXPECT_TRUE(renders());
}

/// By keys alone: Ctrl+R, Return; Escape cancels what goes on and closes what does not.
TEST_F(RenderWindow, IsWorkedByKeysAlone) {
  open(clip("clip.mkv", 5));
  QTest::keyClick(&picture(), Qt::Key_R, Qt::ControlModifier);
  chooseCodec("ffv1");
  setPlace("keys.mkv");
  QTest::keyClick(&place(), Qt::Key_Return);
  ASSERT_TRUE(until([&] { return words("state").endsWith("is written"); }));
  QTest::keyClick(&form(), Qt::Key_Escape);
  EXPECT_FALSE(form().isVisible());
  EXPECT_EQ(test::readAll(*test::openFootage(folder / "keys.mkv")).size(), 5u);
}

}  // namespace
}  // namespace molten
