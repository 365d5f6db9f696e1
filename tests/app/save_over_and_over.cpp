#include "save_over_and_over.h"

#include <unistd.h>

#include <QAction>
#include <QFileInfo>
#include <QTest>

#include "app/bench/bench.h"
#include "support/stages.h"

namespace molten::test {

Project paintedProject(double level) {
  Project project;
  project.source.path = "/films/gather.mp4";
  project.chain = {paintedField({320, 180}, {40, 0.5, level}, {20, 20}, {300, 160})};
  return project;
}

int saveOverAndOver(const std::string& path) {
  const QString name = QString::fromStdString(path), folder = QFileInfo(name).path();
  BenchOptions options;
  options.autosaveFolder = folder + "/autosave";
  options.queueFolder = folder + "/renders";
  options.askQuestions = false;
  Bench bench(options);
  bench.show();
  bench.openPath(name);
  if (bench.document().project().chain.empty()) return 1;
  const Project projects[] = {paintedProject(paintedLevels[0]), paintedProject(paintedLevels[1])};
  for (int i = 0;; ++i) {
    const Project& wanted = projects[i % 2];
    bench.document().apply({"Paint", wanted, {}});
    QCoreApplication::processEvents();
    QTest::keyClick(&bench, Qt::Key_S, Qt::ControlModifier);
    if (bench.document().modified()) return 2;
    if (::write(1, ".", 1) != 1) return 3;
  }
}

}  // namespace molten::test
