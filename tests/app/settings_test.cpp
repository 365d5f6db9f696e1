// The settings: keys, memory and size, and that they stay.
#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QKeySequenceEdit>
#include <QMenuBar>
#include <QSettings>
#include <QTableWidget>
#include <QTimer>
#include <map>

#include "app/settings/settings_view.h"
#include "bench_fixture.h"

namespace molten {
namespace {

class SettingsTest : public test::BenchTest {
 protected:
  SettingsView& settings() { return *bench->findChild<SettingsView*>(); }
  QComboBox& box(const char* name) { return *settings().findChild<QComboBox*>(name); }
  QString said() { return settings().findChild<QLabel*>("said")->text(); }
  QKeySequenceEdit& keyOf(const QString& entry) {
    auto* table = settings().findChild<QTableWidget*>("keys");
    for (int row = 0; row < table->rowCount(); ++row)
      if (table->item(row, 0)->text() == entry) return *qobject_cast<QKeySequenceEdit*>(table->cellWidget(row, 1));
    ADD_FAILURE() << entry.toStdString();
    return *qobject_cast<QKeySequenceEdit*>(table->cellWidget(0, 1));
  }
  void setKey(const QString& entry, const QString& keys) {
    auto& edit = keyOf(entry);
    edit.setKeySequence(QKeySequence(keys));
    emit edit.editingFinished();
  }
  QAction* entry(const QString& name) {
    for (QAction* action : bench->findChildren<QAction*>())
      if (QString(action->text()).remove('&').remove(QChar(0x2026)) == name) return action;
    return nullptr;
  }
};

TEST_F(SettingsTest, KeysAreChangedAndStay) {
  ASSERT_TRUE(trigger("Settings…"));
  setKey("Render queue", "Ctrl+Alt+Q");
  EXPECT_EQ(entry("Render queue")->shortcut(), QKeySequence("Ctrl+Alt+Q"));
  EXPECT_TRUE(said().isEmpty());
  // One key means one thing.
  setKey("Manual", "Ctrl+Alt+Q");
  EXPECT_TRUE(said().contains("is the key of “Render queue” already")) << said().toStdString();
  EXPECT_EQ(entry("Manual")->shortcut(), QKeySequence("F1"));
  EXPECT_EQ(keyOf("Manual").keySequence(), QKeySequence("F1"));
  bench.reset();
  makeBench();
  EXPECT_EQ(entry("Render queue")->shortcut(), QKeySequence("Ctrl+Alt+Q"));
  ASSERT_TRUE(trigger("Settings…"));
  EXPECT_EQ(keyOf("Render queue").keySequence(), QKeySequence("Ctrl+Alt+Q"));
  QTest::mouseClick(settings().findChild<QPushButton*>("usual"), Qt::LeftButton);
  EXPECT_EQ(entry("Render queue")->shortcut(), QKeySequence("Ctrl+Shift+R"));
  EXPECT_EQ(keyOf("Render queue").keySequence(), QKeySequence("Ctrl+Shift+R"));
}

/// Alt and a letter opens the menu with that letter.
TEST_F(SettingsTest, NoKeyIsAMenusOrAnothers) {
  std::map<QString, QString> taken;
  for (QAction* const menu : bench->menuBar()->actions())
    if (const qsizetype at = menu->text().indexOf('&'); at >= 0) taken[QString("Alt+") + menu->text()[at + 1].toUpper()] = "the menu " + menu->text();
  EXPECT_GE(taken.size(), 6u);
  for (QAction* const action : bench->findChildren<QAction*>())
    for (const QKeySequence& keys : action->shortcuts()) {
      const auto [at, isNew] = taken.try_emplace(keys.toString(), action->text());
      EXPECT_TRUE(isNew || at->second == action->text()) << keys.toString().toStdString() << " is of " << at->second.toStdString() << " and " << action->text().toStdString();
    }
}

TEST_F(SettingsTest, TheMemoryBudgetIsThatOfTheMenu) {
  ASSERT_TRUE(trigger("Settings…"));
  auto& budget = box("memory");
  EXPECT_EQ(budget.currentIndex(), 0);
  budget.setCurrentIndex(budget.findText("0.5 GB"));
  emit budget.activated(budget.currentIndex());
  EXPECT_EQ(QSettings().value("memory-budget").toULongLong(), 500'000'000u);
  bench.reset();
  makeBench();
  ASSERT_TRUE(trigger("Settings…"));
  EXPECT_EQ(box("memory").currentText(), "0.5 GB");
}

TEST_F(SettingsTest, SoundDevicesAreThereSoonAfterTheSettings) {
  QSettings().setValue("sound device", "of-another-machine");
  ASSERT_TRUE(trigger("Settings…"));
  EXPECT_TRUE(until([&] { return box("sound").isEnabled(); }));
  EXPECT_EQ(box("sound").currentText(), "the desktop's") << "a device that is not there is not chosen";
}

TEST_F(SettingsTest, TheSizeIsSaidToComeWithTheNextStart) {
  ASSERT_TRUE(trigger("Settings…"));
  auto& size = box("size");
  const int before = interfaceSize();
  size.setCurrentIndex(size.findText("130 %"));
  emit size.activated(size.currentIndex());
  EXPECT_TRUE(said().contains("130 % from the next start on")) << said().toStdString();
  EXPECT_EQ(interfaceSize(), 130);
  size.setCurrentIndex(size.findData(before));
  emit size.activated(size.currentIndex());
  EXPECT_EQ(interfaceSize(), before);
}

/// The folder of starters is another one from the next start on; one that cannot be written to is refused.
TEST_F(SettingsTest, TheFolderOfStartersIsChanged) {
  const QString shared = QString::fromStdString(folder / "shared");
  ASSERT_TRUE(QDir().mkpath(shared));
  ASSERT_TRUE(trigger("Settings…"));
  QString wanted = shared;
  QTimer answers;
  answers.callOnTimeout([&] {
    auto* const box = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    if (!box) return;
    box->findChild<QLineEdit*>("fileNameEdit")->setText(wanted);
    QMetaObject::invokeMethod(box, "accept");
  });
  answers.start(20);
  QTest::mouseClick(settings().findChild<QPushButton*>("Change the folder of Starters"), Qt::LeftButton);
  EXPECT_TRUE(said().contains("from the next start on")) << said().toStdString();
  EXPECT_EQ(QSettings().value("starter folder").toString(), shared);
  wanted = "/proc";
  QTest::mouseClick(settings().findChild<QPushButton*>("Change the folder of Starters"), Qt::LeftButton);
  EXPECT_TRUE(said().contains("/proc cannot be written to")) << said().toStdString();
  EXPECT_EQ(QSettings().value("starter folder").toString(), shared);
  // Where nobody says otherwise, the window takes its starters from there.
  bench.reset();
  BenchOptions options;
  options.autosaveFolder = QString::fromStdString(folder / "autosave");
  options.queueFolder = QString::fromStdString(listFolder / "list");
  options.memoryBytes = memory;
  bench = std::make_unique<Bench>(options);
  bench->show();
  ASSERT_TRUE(trigger("Settings…"));
  EXPECT_EQ(settings().findChild<QLabel*>("folder of Starters")->toolTip(), shared);
}

}  // namespace
}  // namespace molten
