#pragma once
// What stays set from one start to the next, in one view.

#include <QComboBox>
#include <QDialog>
#include <functional>
#include <vector>

#include "app/mailbox/newest.h"
#include "app/sound/sound_device.h"

class QFormLayout;
class QLabel;
class QTableWidget;

namespace molten {

class Commands;

/// What the view is of, besides the keys.
struct SettingsOf {
  struct Choice {
    QString name;
    std::size_t bytes;  ///< 0: the usual
  };
  std::vector<Choice> memory;
  std::function<std::size_t()> chosenMemory;  ///< one of them
  std::function<void(std::size_t)> chooseMemory;
  struct Folder {
    QString what, where;
    QString setting = {};  ///< under which another one is kept; empty: it stays where it is
  };
  std::vector<Folder> folders;
};

/// How large words and all else are drawn, in percent; from the next start on.
int interfaceSize();

class SettingsView : public QDialog {
  Q_OBJECT

 public:
  SettingsView(Commands& commands, SettingsOf of, QWidget* parent = nullptr);
  void bringUp();

 private:
  void addMemory(QFormLayout* form);
  void addSize(QFormLayout* form);
  void addSound(QFormLayout* form);
  void addFolders(QFormLayout* form);
  /// Asks for another one; empty: it stays.
  QString otherFolder(const SettingsOf::Folder& folder);
  void fillKeys();
  void fillSound(const std::vector<SoundOutput>& outputs);

  Commands& commands_;
  SettingsOf of_;
  QComboBox* sound_;
  QTableWidget* keys_;
  QLabel* said_;
  struct Nothing {};
  Newest<Nothing, std::vector<SoundOutput>> outputs_;  ///< asked for only when the settings are looked at
};

}  // namespace molten
