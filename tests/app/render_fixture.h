#pragma once
// The form of a render and the list of renders, as a hand uses them.

#include <QSpinBox>

#include "app/render/render_list.h"
#include "app/render/render_row.h"
#include "bench_fixture.h"
#include "core/files/read_file.h"
#include "core/project/project_file.h"

namespace molten::test {

class RenderTest : public BenchTest {
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
  QPushButton& renderButton() { return *form().findChild<QPushButton*>("render"); }
  static void click(QPushButton& button) { QTest::mouseClick(&button, Qt::LeftButton); }
  /// Waits until the summary of what would be written says this.
  ::testing::AssertionResult saysOfIt(const QString& part, const char* label = "summary") {
    if (until([&] { return words(label).contains(part); })) return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << words(label).toStdString();
  }

  RenderList& list() { return *bench->findChild<RenderList*>(); }
  /// In the order in which they stand in the list.
  std::vector<RenderRow*> rows() {
    std::vector<RenderRow*> all;
    for (auto* row : list().findChildren<RenderRow*>())
      if (!row->isHidden()) all.push_back(row);
    return all;
  }
  QString rowSays(const char* label, std::size_t row) { return rows().at(row)->findChild<QLabel*>(label)->text(); }
  QString state(std::size_t row) { return rowSays("state", row); }
  QString state() { return state(rows().size() - 1); }
  QString detail() { return rowSays("detail", rows().size() - 1); }
  QPushButton& rowButton(const char* name, std::size_t row) { return *rows().at(row)->findChild<QPushButton*>(name); }
  QPushButton& rowButton(const char* name) { return rowButton(name, rows().size() - 1); }
  /// Something runs or waits.
  bool isGoingOn() {
    for (auto* row : rows())
      if (!row->findChild<QPushButton*>("cancel")->isHidden()) return true;
    return false;
  }
  /// Presses Render: the form goes, and the render waits or runs.
  ::testing::AssertionResult begins() {
    const std::size_t before = rows().size();
    click(renderButton());
    if (until([&] { return !form().isVisible(); }) && rows().size() == before + 1) return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << words("notes").toStdString();
  }
  ::testing::AssertionResult renders() {
    if (const auto begun = begins(); !begun) return begun;
    if (until([&] { return !isGoingOn(); }) && state().endsWith("is written")) return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << (state() + " " + detail()).toStdString();
  }
  std::vector<Picture> written(const std::string& name) { return readAll(*openFootage(folder / name)); }
  bool isThere(const std::string& part) {
    for (const auto& name : folder.names())
      if (name.find(part) != std::string::npos) return true;
    return false;
  }
};

}  // namespace molten::test
