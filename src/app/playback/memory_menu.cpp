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

std::vector<std::size_t> memoryChoices() {
  std::vector<std::size_t> all{0};
  for (const double gigabytes : {0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0})
    if (const auto bytes = static_cast<std::size_t>(gigabytes * 1e9); bytes <= machineMemory() / 4 * 3) all.push_back(bytes);
  return all;
}

QString memoryName(std::size_t choice, std::size_t usual) {
  if (choice == 0) return QObject::tr("Usual: %1 GB").arg(static_cast<double>(usual) / 1e9, 0, 'f', 1);
  return QObject::tr("%1 GB").arg(static_cast<double>(choice) / 1e9);
}

std::size_t memoryChoice() {
  return kept();
}

void chooseMemory(std::size_t choice, std::size_t usual, Playback& playback) {
  QSettings().setValue(setting, static_cast<qulonglong>(choice));
  playback.setMemory(choice > 0 ? choice : usual);
}

void fillMemoryMenu(QMenu* menu, std::size_t usual, Playback& playback) {
  auto* group = new QActionGroup(menu);
  for (const std::size_t choice : memoryChoices()) {
    QAction* action = menu->addAction(memoryName(choice, usual));
    action->setCheckable(true);
    group->addAction(action);
    // It may have been chosen in the settings meanwhile.
    QObject::connect(menu, &QMenu::aboutToShow, action, [action, choice] { action->setChecked(kept() == choice); });
    action->setChecked(kept() == choice);
    QObject::connect(action, &QAction::triggered, &playback, [&playback, choice, usual] { chooseMemory(choice, usual, playback); });
  }
}

}  // namespace molten
