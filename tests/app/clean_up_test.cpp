// Project › Clean up…: what it lists, and that nothing goes unless the user says so.
#include "app/files/clean_up.h"
#include "bench_fixture.h"
#include "core/project/project_file.h"
#include "core/project/unnamed_paintings.h"

namespace molten {
namespace {

class CleanUpTest : public test::BenchTest {
 protected:
  CleanUpTest() {
    qputenv("XDG_DATA_HOME", QByteArray::fromStdString(trash.path().string()));
    QObject::connect(bench->findChild<Session*>(), &Session::said, [this](const QString& sentence) { said << sentence; });
  }
  ~CleanUpTest() override { qunsetenv("XDG_DATA_HOME"); }
  /// Saves a project twice, each time with another painting, and opens it.
  void openTwicePainted(const char* name) {
    for (const double level : {0.3, 0.8}) {
      Project project;
      project.source.path = clip();
      project.chain = {paintedField({24, 16}, Brush{5, 0.7, level}, {4, 4}, {20, 12})};
      ASSERT_TRUE(saveProject(project, folder / name));
    }
    open(folder / name);
  }
  std::vector<std::string> paintings() {
    std::vector<std::string> all;
    for (const std::string& name : folder.names())
      if (name.ends_with(".png")) all.push_back(name);
    return all;
  }
  test::TempFolder trash;
  QStringList said;
};

TEST_F(CleanUpTest, UnnamedPaintingsGoToTheTrashIfTheUserSaysSo) {
  openTwicePainted("say \"cut\".molten");
  ASSERT_EQ(paintings().size(), 2u);
  const std::string old = QFileInfo(QString::fromStdString(unnamedPaintings(folder.path().string())->at(0))).fileName().toStdString();
  answer = "Keep";
  ASSERT_TRUE(trigger("Clean up…"));
  ASSERT_TRUE(until([&] { return asked.size() == 1; }));
  EXPECT_TRUE(asked.last().contains("names this painting")) << asked.last().toStdString();
  EXPECT_TRUE(asked.last().contains(QString::fromStdString(old))) << asked.last().toStdString();
  EXPECT_EQ(paintings().size(), 2u);
  answer = "Move to the trash";
  ASSERT_TRUE(trigger("Clean up…"));
  ASSERT_TRUE(until([&] { return paintings().size() == 1; }));
  EXPECT_NE(paintings()[0], old);
  EXPECT_TRUE(std::filesystem::exists(trash / "Trash/files/" + old));
  EXPECT_TRUE(until([&] { return said.contains("1 painting is in the trash."); })) << said.join('|').toStdString();
  ASSERT_TRUE(trigger("Clean up…"));
  EXPECT_TRUE(until([&] { return said.last().startsWith("Every painting in "); })) << said.last().toStdString();
  EXPECT_EQ(asked.size(), 2);
}

TEST_F(CleanUpTest, WithoutAFolderOrWithAFileThatCannotBeReadItSaysWhy) {
  ASSERT_TRUE(trigger("Clean up…"));
  ASSERT_FALSE(said.isEmpty());
  EXPECT_TRUE(said.last().startsWith("Save the project first"));
  openTwicePainted("a.molten");
  test::writeFile(folder / "half.molten.bak", std::string("{"));
  ASSERT_TRUE(trigger("Clean up…"));
  EXPECT_TRUE(until([&] { return said.last().startsWith("half.molten.bak cannot be read"); })) << said.last().toStdString();
  EXPECT_TRUE(asked.isEmpty());
  EXPECT_EQ(paintings().size(), 2u);
}

/// The whole way in the window: a painted field under a name with quotation marks, changed and saved.
TEST_F(CleanUpTest, SavingInTheWindowKeepsThePainting) {
  openTwicePainted("say \"cut\".molten");
  bench->document().apply(setSpan(project(), 3, 9, "In and out"));
  ASSERT_TRUE(bench->save());
  EXPECT_EQ(paintings().size(), 2u);
  const auto loaded = loadProject(folder / "say \"cut\".molten");
  ASSERT_TRUE(loaded);
  EXPECT_TRUE(loaded->chain == project().chain);
}

}  // namespace
}  // namespace molten
