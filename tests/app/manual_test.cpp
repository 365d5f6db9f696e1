// The manual: its pages, what they show and link to, and how they are found.
#include <QFile>
#include <QListWidget>
#include <QRegularExpression>
#include <QSettings>
#include <QTextBrowser>
#include <QToolButton>

#include "app/dials/dials.h"
#include "app/help/manual.h"
#include "app/help/manual_view.h"
#include "app/help/tour.h"
#include "bench_fixture.h"

namespace molten {
namespace {

TEST(ManualPages, ShowAndLinkToWhatIsThere) {
  ASSERT_GE(manualPages().size(), stageKinds().size() + 12);
  std::set<QString> names;
  for (const ManualPage& page : manualPages()) EXPECT_TRUE(names.insert(page.name).second) << page.name.toStdString();
  static const QRegularExpression link(R"(\]\(([^)]*)\))");
  for (const ManualPage& page : manualPages()) {
    EXPECT_FALSE(page.title.isEmpty()) << page.name.toStdString();
    EXPECT_GT(page.words.size(), 60) << page.name.toStdString();
    for (auto found = link.globalMatch(page.words); found.hasNext();) {
      const QString to = found.next().captured(1);
      EXPECT_TRUE(to.startsWith("page:") ? names.contains(to.mid(5)) : QFile::exists(":/manual/" + to)) << page.name.toStdString() << ": " << to.toStdString();
    }
  }
}

TEST(ManualPages, EveryStageHasOneThatTellsOfEveryParameter) {
  for (const StageKind* kind : stageKinds()) {
    const StageDescription& stage = kind->description();
    const auto at = std::find_if(manualPages().begin(), manualPages().end(), [&](auto& page) { return page.name == pageOf(stage); });
    ASSERT_NE(at, manualPages().end()) << stage.id;
    for (const auto& parameter : stage.parameters)
      EXPECT_TRUE(at->words.contains(QString::fromStdString("**" + parameter.label + "**: " + parameter.help))) << stage.id << " " << parameter.id;
  }
}

/// Menu entries and keys that pages name are those of the window.
class ManualTest : public test::BenchTest {
 protected:
  ManualView& manual() { return *bench->findChild<ManualView*>(); }
  QListWidget& pages() { return *manual().findChild<QListWidget*>("pages"); }
  QString read() { return manual().findChild<QTextBrowser*>("words")->toPlainText(); }
};

TEST_F(ManualTest, OpensAtWhatIsInHandAndIsSearched) {
  QTest::keyClick(bench.get(), Qt::Key_F1);
  ASSERT_TRUE(manual().isVisible());
  EXPECT_TRUE(read().startsWith("A first effect")) << read().left(60).toStdString();
  EXPECT_EQ(static_cast<std::size_t>(pages().count()), manualPages().size());
  manual().close();
  open(clip());
  ASSERT_TRUE(trigger("Strips"));
  ASSERT_TRUE(trigger("Manual"));
  EXPECT_TRUE(read().startsWith("Strips")) << read().left(60).toStdString();
  manual().close();
  ASSERT_TRUE(trigger("Echoes"));
  QTest::mouseClick(bench->findChild<Dials*>()->findChild<QToolButton*>("manual"), Qt::LeftButton);
  EXPECT_TRUE(manual().isVisible());
  EXPECT_TRUE(read().startsWith("Echoes")) << read().left(60).toStdString();
  auto& wanted = *manual().findChild<QLineEdit*>("wanted");
  QTest::keyClicks(&wanted, "onset pace");
  ASSERT_GT(pages().count(), 0);
  EXPECT_LT(static_cast<std::size_t>(pages().count()), manualPages().size());
  EXPECT_EQ(pages().item(0)->text(), "A ramp on a sound");
  EXPECT_TRUE(read().startsWith("A ramp on a sound"));
  wanted.setText("strips");
  EXPECT_TRUE(pages().item(0)->text().contains("strips", Qt::CaseInsensitive)) << "what is so called comes first";
  wanted.setText("moonshine");
  EXPECT_EQ(pages().count(), 0);
}

TEST_F(ManualTest, NamesOnlyMenuEntriesThatAreThere) {
  std::set<QString> entries;
  for (const QAction* action : bench->findChildren<QAction*>()) entries.insert(action->text().remove('&'));
  // Written as *Menu › Entry*.
  static const QRegularExpression path(R"(\*[A-Z][^*›]* › ([^*›]+)\*)");
  int found = 0;
  for (const ManualPage& page : manualPages())
    for (auto each = path.globalMatch(page.words); each.hasNext(); ++found) {
      const QString entry = each.next().captured(1);
      EXPECT_TRUE(entries.contains(entry)) << page.name.toStdString() << ": " << entry.toStdString();
    }
  EXPECT_GE(found, 3);
}

/// Five steps, each beside what it speaks of and within the window; it can be left at any of them.
TEST_F(ManualTest, ALookRoundIsShownAndLeft) {
  open(clip());
  auto& tour = *bench->findChild<Tour*>();
  auto& next = *tour.findChild<QPushButton*>("next");
  ASSERT_TRUE(trigger("A look round"));
  std::set<QString> said;
  for (int step = 0; step < 5; ++step) {
    ASSERT_TRUE(tour.isVisible()) << step;
    said.insert(tour.findChild<QLabel*>("words")->text());
    EXPECT_TRUE(bench->rect().contains(tour.geometry())) << step;
    QTest::mouseClick(&next, Qt::LeftButton);
  }
  EXPECT_FALSE(tour.isVisible());
  EXPECT_EQ(said.size(), 5u);
  EXPECT_TRUE(QSettings().value("tour taken").toBool());
  ASSERT_TRUE(trigger("A look round"));
  bench->resize(960, 600);
  EXPECT_TRUE(until([&] { return bench->rect().contains(tour.geometry()); }));
  QTest::mouseClick(tour.findChild<QPushButton*>("leave"), Qt::LeftButton);
  EXPECT_FALSE(tour.isVisible());
}

}  // namespace
}  // namespace molten
