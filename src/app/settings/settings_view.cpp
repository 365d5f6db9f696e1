#include "app/settings/settings_view.h"

#include <QComboBox>
#include <QDesktopServices>
#include <QFileDialog>
#include <QFormLayout>
#include <QHeaderView>
#include <QKeySequenceEdit>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QTableWidget>
#include <QTemporaryFile>
#include <QUrl>
#include <QVBoxLayout>
#include <algorithm>

#include "app/commands/commands.h"
#include "app/theme/parts.h"
#include "app/theme/spoken.h"

namespace molten {
namespace {

constexpr const char* sizeSetting = "interface size";

QComboBox* choice(const char* name, const QString& spoken) {
  auto* box = new QComboBox;
  box->setObjectName(name);
  box->setAccessibleName(spoken);
  return box;
}

}  // namespace

int interfaceSize() {
  const int percent = QSettings("molten-clock", "molten-clock").value(sizeSetting, 100).toInt();
  return std::clamp(percent, 100, 200);
}

SettingsView::SettingsView(Commands& commands, SettingsOf of, QWidget* parent)
    : QDialog(parent),
      commands_(commands),
      of_(std::move(of)),
      outputs_([](Nothing, std::stop_token) { return soundOutputs(); }, [this](const std::vector<SoundOutput>& outputs) { fillSound(outputs); }) {
  setObjectName("settings");
  setWindowTitle(tr("Settings"));
  theme::resizeWithinScreen(*this, {620, 640});
  auto* form = new QFormLayout;
  form->setHorizontalSpacing(16);
  form->setVerticalSpacing(10);
  addMemory(form);
  addSize(form);
  addSound(form);
  addFolders(form);
  keys_ = new QTableWidget(0, 2);
  keys_->setObjectName("keys");
  keys_->setAccessibleName(tr("Keys"));
  keys_->setHorizontalHeaderLabels({tr("What it does"), tr("Key")});
  keys_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  keys_->setColumnWidth(1, 190);
  keys_->verticalHeader()->hide();
  keys_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  keys_->setShowGrid(false);
  said_ = theme::note();
  said_->setObjectName("said");
  auto* usual = new QPushButton(tr("All keys as they were"));
  usual->setObjectName("usual");
  auto* close = new QPushButton(tr("Close"));
  for (auto* button : {usual, close}) button->setAutoDefault(false);
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(usual);
  buttons->addStretch(1);
  buttons->addWidget(close);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 18, 20, 16);
  column->setSpacing(12);
  column->addLayout(form);
  column->addWidget(keys_, 1);
  column->addWidget(said_);
  column->addLayout(buttons);
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
  connect(usual, &QPushButton::clicked, this, [this] {
    commands_.useUsualKeys();
    said_->clear();
    fillKeys();
  });
}

void SettingsView::bringUp() {
  fillKeys();
  outputs_.ask({});
  show();
  raise();
  activateWindow();
}

void SettingsView::addMemory(QFormLayout* form) {
  auto* box = choice("memory", tr("Memory budget"));
  for (const auto& one : of_.memory) box->addItem(one.name, static_cast<qulonglong>(one.bytes));
  box->setCurrentIndex(std::max(0, box->findData(static_cast<qulonglong>(of_.chosenMemory()))));
  connect(box, &QComboBox::activated, this, [this, box] { of_.chooseMemory(static_cast<std::size_t>(box->currentData().toULongLong())); });
  form->addRow(tr("Memory budget"), box);
}

void SettingsView::addSize(QFormLayout* form) {
  auto* box = choice("size", tr("Size of words and controls"));
  for (const int percent : {100, 115, 130, 150, 175, 200}) box->addItem(tr("%1 %").arg(percent), percent);
  box->setCurrentIndex(std::max(0, box->findData(interfaceSize())));
  connect(box, &QComboBox::activated, this, [this, box] {
    QSettings("molten-clock", "molten-clock").setValue(sizeSetting, box->currentData());
    said_->setText(tr("Words and controls are drawn at %1 from the next start on.").arg(box->currentText()));
  });
  form->addRow(tr("Words and controls"), box);
}

void SettingsView::addSound(QFormLayout* form) {
  sound_ = choice("sound", tr("Sound device"));
  connect(sound_, &QComboBox::activated, this, [this] {
    QSettings().setValue(soundDeviceSetting, sound_->currentData());
    said_->setText(tr("Sound goes to %1 from the next start on.").arg(sound_->currentText()));
  });
  sound_->addItem(tr("looking for devices…"));
  sound_->setEnabled(false);
  form->addRow(tr("Sound device"), sound_);
}

void SettingsView::fillSound(const std::vector<SoundOutput>& outputs) {
  sound_->clear();
  sound_->addItem(tr("the desktop's"), QString());
  for (const SoundOutput& output : outputs) sound_->addItem(output.name, output.id);
  sound_->setCurrentIndex(std::max(0, sound_->findData(QSettings().value(soundDeviceSetting).toString())));
  sound_->setEnabled(true);
}

void SettingsView::addFolders(QFormLayout* form) {
  for (SettingsOf::Folder& folder : of_.folders) {
    auto* path = new theme::OneLine;
    path->setWords(folder.where);
    path->setObjectName("folder of " + folder.what);
    path->setProperty("dim", true);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(path, 1);
    const auto button = [&](const QString& words, const QString& spoken) {
      auto* made = new QPushButton(words);
      made->setAutoDefault(false);
      made->setAccessibleName(spoken.arg(folder.what));
      made->setObjectName(made->accessibleName());
      row->addWidget(made);
      return made;
    };
    if (!folder.setting.isEmpty())
      connect(button(tr("Change…"), tr("Change the folder of %1")), &QPushButton::clicked, this, [this, path, &folder] {
        const QString other = otherFolder(folder);
        if (other.isEmpty()) return;
        QSettings().setValue(folder.setting, other);
        path->setWords(folder.where = other);
        said_->setText(tr("%1 are in %2 from the next start on. What is in the folder so far stays there.").arg(folder.what, other));
      });
    connect(button(tr("Open"), tr("Open the folder of %1")), &QPushButton::clicked, this, [&folder] { QDesktopServices::openUrl(QUrl::fromLocalFile(folder.where)); });
    form->addRow(folder.what, row);
  }
}

QString SettingsView::otherFolder(const SettingsOf::Folder& folder) {
  const QString other = QFileDialog::getExistingDirectory(this, tr("Folder of %1").arg(folder.what), folder.where);
  // Whether it can be written to is found out by doing so.
  if (other.isEmpty() || QTemporaryFile(other + "/XXXXXX").open()) return other;
  said_->setText(tr("%1 cannot be written to; choose another folder.").arg(other));
  return {};
}

void SettingsView::fillKeys() {
  const auto entries = commands_.entries();
  keys_->setRowCount(static_cast<int>(entries.size()));
  for (int row = 0; const Commands::Entry& entry : entries) {
    keys_->setItem(row, 0, new QTableWidgetItem(entry.name));
    auto* edit = new QKeySequenceEdit(entry.keys);
    theme::setSpoken(*edit, QAccessible::HotkeyField, tr("Key of %1").arg(entry.name));
    keys_->setCellWidget(row, 1, edit);
    connect(edit, &QKeySequenceEdit::editingFinished, this, [this, edit, name = entry.name] {
      const QString taken = commands_.setKeys(name, edit->keySequence());
      said_->setText(taken.isEmpty() ? QString() : tr("%1 is the key of “%2” already; give that another one first.").arg(edit->keySequence().toString(QKeySequence::NativeText), taken));
      if (taken.isEmpty()) return;
      for (const Commands::Entry& one : commands_.entries())
        if (one.name == name) edit->setKeySequence(one.keys);
    });
    ++row;
  }
}

}  // namespace molten
