#pragma once
// The window's commands: entries of its menus with their keys.

#include <QKeySequence>
#include <QObject>
#include <functional>
#include <map>
#include <vector>

class QAction;
class QMenu;

namespace molten {

class Session;

/// What a command needs to be there; it is dim where that is not.
enum class Needs { Nothing, Footage, Stage, VersionB, Reel, Shot, ProjectAsSource };

/// Makes commands, and dims those that cannot be used. The rooms say what their commands do.
class Commands : public QObject {
  Q_OBJECT

 public:
  explicit Commands(Session& session, QObject* parent = nullptr);
  QAction* add(QMenu* menu, const QString& name, const QKeySequence& keys, const std::function<void()>& act,
               Needs needs = Needs::Nothing);
  /// An entry of a menu by its name, and the keys that it has.
  struct Entry {
    QString name;
    QKeySequence keys;
  };
  std::vector<Entry> entries() const;
  /// The entry with these keys that is dim because there is no footage; null if there is none.
  QAction* lackingFootage(const QKeySequence& keys) const;
  /// Kept for all starts. Gives back the name of the entry that has these keys already, and changes nothing then; empty: it is done.
  QString setKeys(const QString& name, const QKeySequence& keys);
  void useUsualKeys();
  /// Keys and gestures that no entry of a menu has, for the page of keys.
  void tell(const QString& keys, const QString& does) { told_.emplace_back(keys, does); }
  /// All keys and what they do: of every entry that has one, menu by menu, and what was told. In HTML.
  QString keysPage() const;

 private:
  void refresh();
  bool met(Needs needs) const;

  Session& session_;
  std::vector<std::pair<QAction*, Needs>> needing_;
  std::vector<std::pair<QString, QString>> told_;
  std::vector<std::pair<QMenu*, QAction*>> all_;
  std::map<QAction*, QKeySequence> usual_;
};

}  // namespace molten
