#include "app/picture/comparison.h"

#include <QAction>
#include <QActionGroup>
#include <QMenu>

#include "app/commands/commands.h"
#include "app/picture/viewing.h"

namespace molten {

Comparison::Comparison(Session& session, PictureView& picture, Viewing& viewing, QObject* parent)
    : QObject(parent), session_(session), picture_(picture), viewing_(viewing) {
  viewing_.compareWith([this] { return how_ == Comparing::Off ? std::nullopt : std::optional(other()); });
  viewing_.lay([this](PictureState& state) {
    if (how_ == Comparing::Off) return;
    if (!state.bypassed) state.comparing = how_;
    state.otherName = otherName();
  });
}

void Comparison::fill(Commands& commands, QMenu* menu) {
  auto* how = new QActionGroup(menu);
  const struct {
    QString name;
    Comparing comparing;
    const char* keys;
  } hows[] = {{tr("Off"), Comparing::Off, "Shift+0"},
              {tr("Wipe"), Comparing::Wipe, "W"},
              {tr("Side by side"), Comparing::SideBySide, "Shift+W"},
              {tr("Difference"), Comparing::Difference, "Shift+D"}};
  for (const auto& choice : hows) {
    const auto choose = [this, value = choice.comparing] {
      // The same again switches it off.
      how_ = how_ == value ? Comparing::Off : value;
      refresh();
    };
    QAction* action = commands.add(menu, choice.name, QKeySequence(choice.keys), choose, Needs::Footage);
    action->setCheckable(true);
    how->addAction(action);
    hows_[static_cast<std::size_t>(choice.comparing)] = action;
  }
  hows_[0]->setChecked(true);
  menu->addSeparator();
  auto* with = new QActionGroup(menu);
  const std::pair<QString, With> withs[] = {{tr("With the footage"), With::Footage},
                                            {tr("With the chain without the selected stage"), With::WithoutStage},
                                            {tr("With version B"), With::VersionB}};
  for (const auto& choice : withs) {
    const auto choose = [this, value = choice.second] {
      with_ = value;
      if (how_ == Comparing::Off) how_ = Comparing::Wipe;
      refresh();
    };
    QAction* action = commands.add(menu, choice.first, {}, choose, Needs::Footage);
    action->setCheckable(true);
    action->setChecked(choice.second == With::Footage);
    with->addAction(action);
    withs_[static_cast<std::size_t>(choice.second)] = action;
  }
  menu->addSeparator();
  const auto keep = [this] {
    session_.apply(keepVersion(session_.project()));
    emit session_.said(tr("These settings are kept as version B; Shift+B changes the two over."));
  };
  commands.add(menu, tr("Keep these settings as version B"), QKeySequence("Ctrl+Shift+B"), keep, Needs::Footage);
  const auto swap = [this] {
    if (session_.project().versionB) session_.apply(swapVersions(session_.project()));
  };
  commands.add(menu, tr("Change A and B over"), QKeySequence("Shift+B"), swap, Needs::VersionB);
}

Chain Comparison::other() const {
  const Project& project = session_.project();
  if (with_ == With::VersionB && project.versionB) return *project.versionB;
  const auto selected = session_.selectedStage();
  if (with_ != With::WithoutStage || !selected) return {};
  Chain chain = project.chain;
  chain[*selected].on = false;
  return chain;
}

QString Comparison::otherName() const {
  const Project& project = session_.project();
  if (with_ == With::VersionB && project.versionB) return tr("version B");
  const auto selected = session_.selectedStage();
  if (with_ != With::WithoutStage || !selected) return tr("the footage");
  return tr("without %1").arg(QString::fromStdString(project.chain[*selected].kind->description().label));
}

void Comparison::refresh() {
  hows_[static_cast<std::size_t>(how_)]->setChecked(true);
  withs_[static_cast<std::size_t>(with_)]->setChecked(true);
  if (with_ == With::VersionB && !session_.project().versionB && how_ != Comparing::Off)
    emit session_.said(
        tr("No version B is kept yet: Ctrl+Shift+B keeps these settings as it. Compared with the footage."));
  if (how_ == Comparing::Off) picture_.setOther({});
  viewing_.refresh();
}

}  // namespace molten
