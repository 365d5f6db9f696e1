#include "app/bench/view_menu.h"

#include <QAction>
#include <QMenu>

#include "app/bench/deck_split.h"
#include "app/chart/deck.h"
#include "app/commands/commands.h"
#include "app/log/log_view.h"
#include "app/picture/comparison.h"
#include "app/picture/picture_view.h"
#include "app/picture/viewing.h"
#include "app/sections/section_view.h"
#include "app/sections/sections.h"
#include "app/session/session.h"
#include "app/values/values_view.h"

namespace molten {
namespace {

/// What the charts show, as it stands now.
std::vector<ValueTable> valuesOf(const ViewParts& parts) {
  if (!parts.session.footage()) return {};
  std::vector<ValueTable> tables{timeChartValues(parts.deck.plot()->sight()), paceValues(parts.deck.plot()->sight()), keyValues(parts.deck.lanes()->sight())};
  if (parts.sections.inSight()) {
    const Size size = parts.session.reading()->outgoing().size;
    tables.push_back(sectionValues(QObject::tr("Across"), parts.across.state(), size.width));
    tables.push_back(sectionValues(QObject::tr("Down"), parts.down.state(), size.height));
  }
  return tables;
}

void fillZoom(Commands& commands, QMenu* menu, PictureView& picture) {
  const auto zoom = [&picture](double by) { picture.setZoom(picture.shownZoom() * by); };
  const auto add = [&](const QString& name, const char* keys, const std::function<void()>& act) { commands.add(menu, name, QKeySequence(keys), act, Needs::Footage); };
  add(QObject::tr("Fit the picture"), "Ctrl+0", [&picture] { picture.fit(); });
  add(QObject::tr("100 %"), "Ctrl+1", [&picture] { picture.setZoom(1); });
  add(QObject::tr("200 %"), "Ctrl+2", [&picture] { picture.setZoom(2); });
  add(QObject::tr("Zoom to…"), "Ctrl+Shift+0", [&picture] { picture.typeZoom(); });
  add(QObject::tr("Zoom in"), "Ctrl++", [zoom] { zoom(1.5); });
  add(QObject::tr("Zoom out"), "Ctrl+-", [zoom] { zoom(1 / 1.5); });
}

void fillDeck(Commands& commands, QMenu* menu, Deck& deck, DeckSplit& split) {
  QAction* const tall = commands.add(menu, QObject::tr("Tall deck"), QKeySequence("D"), [&split] { split.setTall(!split.tall()); });
  tall->setCheckable(true);
  tall->setChecked(split.tall());
  QObject::connect(&split, &DeckSplit::tallChanged, tall, &QAction::setChecked);
  commands.add(
      menu, QObject::tr("Speed upward in the Time Chart"), QKeySequence("U"),
      [&deck] { deck.setUp(deck.up() == ChartUp::Source ? ChartUp::Speed : ChartUp::Source); }, Needs::Footage);
  commands.add(
      menu, QObject::tr("All of the time in the deck"), QKeySequence("Z"), [&deck] { deck.plot()->fit(); }, Needs::Footage);
}

}  // namespace

QAction* fillViewMenu(Commands& commands, QMenu* menu, const ViewParts& parts, const std::function<void()>& fillWindow, QWidget* window) {
  fillZoom(commands, menu, parts.picture);
  menu->addSeparator();
  Sections& sections = parts.sections;
  QAction* const wanted = commands.add(menu, QObject::tr("Across and Down"), QKeySequence("Ctrl+Shift+A"), [&sections] { sections.want(!sections.wanted()); });
  wanted->setCheckable(true);
  wanted->setChecked(sections.wanted());
  commands
      .add(
          menu, QObject::tr("Frame borders"), QKeySequence("E"), [&sections] { sections.showBorders(!sections.bordersShown()); }, Needs::Footage)
      ->setCheckable(true);
  commands
      .add(
          menu, QObject::tr("Field over the Picture"), QKeySequence("T"), [&sections] { sections.showField(!sections.fieldShown()); }, Needs::Footage)
      ->setCheckable(true);
  parts.comparison.fill(commands, menu->addMenu(QObject::tr("Compare")));
  menu->addSeparator();
  fillDeck(commands, menu, parts.deck, parts.split);
  commands.add(menu, QObject::tr("Values as a table"), QKeySequence("Shift+V"), [parts, window] {
    auto* values = window->findChild<ValuesView*>();
    if (!values) {
      values = new ValuesView([parts] { return valuesOf(parts); }, window);
      QObject::connect(&parts.viewing, &Viewing::refreshed, values, &ValuesView::refresh);
    }
    values->bringUp();
  });
  menu->addSeparator();
  commands.add(menu, QObject::tr("Log"), QKeySequence("Ctrl+L"), [&log = parts.log] { log.show(); });
  menu->addSeparator();
  QAction* const fill = commands.add(menu, QObject::tr("Picture fills the window"), QKeySequence("F"), fillWindow, Needs::Footage);
  fill->setCheckable(true);
  return fill;
}

}  // namespace molten
