#include "app/playback/memory_menu.h"

#include <QActionGroup>
#include <QMenu>
#include <QSettings>

#include "app/playback/playback.h"
#include "core/machine.h"

namespace molten {
namespace {

constexpr const char* setting = "memory-budget";

std::size_t kept() {
  return static_cast<std::size_t>(QSettings().value(setting, 0).toULongLong());
}

}  // namespace

std::size_t chosenMemory(std::size_t usual) {
  return kept() > 0 ? kept() : usual;
}

void fillMemoryMenu(QMenu* menu, std::size_t usual, Playback& playback) {
  auto* group = new QActionGroup(menu);
  const auto choice = [&](const QString& name, std::size_t bytes, std::size_t keeps) {
    QAction* action = menu->addAction(name);
    action->setCheckable(true);
    action->setChecked(kept() == keeps);
    group->addAction(action);
    QObject::connect(action, &QAction::triggered, &playback, [&playback, bytes, keeps] {
      QSettings().setValue(setting, static_cast<qulonglong>(keeps));
      playback.setMemory(bytes);
    });
  };
  choice(QObject::tr("Usual: %1 GB").arg(static_cast<double>(usual) / 1e9, 0, 'f', 1), usual, 0);
  const std::size_t machine = machineMemory();
  for (const double gigabytes : {0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0}) {
    const auto bytes = static_cast<std::size_t>(gigabytes * 1e9);
    if (bytes <= machine / 4 * 3) choice(QObject::tr("%1 GB").arg(gigabytes), bytes, bytes);
  }
}

}  // namespace molten
