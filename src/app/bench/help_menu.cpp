#include "app/bench/help_menu.h"

#include <QDialog>
#include <QMenu>
#include <QMessageBox>
#include <QSettings>
#include <QTextBrowser>
#include <QVBoxLayout>

#include "app/commands/commands.h"
#include "app/help/manual.h"
#include "app/help/manual_view.h"
#include "app/help/tour.h"
#include "app/session/session.h"
#include "app/theme/parts.h"

namespace molten {
namespace {

QString tr(const char* words) {
  return QObject::tr(words);
}

/// In a window of its own, beside which one goes on.
void showKeys(QWidget* window, const QString& page) {
  auto* dialog = new QDialog(window);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setObjectName("keys page");
  dialog->setWindowTitle(tr("Keys"));
  auto* text = new QTextBrowser;
  text->setHtml(page);
  text->setAccessibleName(tr("Keys"));
  text->setFrameShape(QFrame::NoFrame);
  auto* column = new QVBoxLayout(dialog);
  column->addWidget(text);
  theme::resizeWithinScreen(*dialog, {560, 640});
  dialog->show();
}

std::vector<TourStep> lookRound(const TourPlaces& at) {
  return {{at.chain, tr("The Chain: your footage goes through its stages from left to right. Press A to add one by typing; drag a tile to another place.")},
          {at.picture, tr("The Picture, with the handles of the selected stage on it. Drag them; hold B to see the footage as it was.")},
          {at.dials, tr("The Dials: what the selected stage does. Type a value with its unit, like 1.5s or 36f, drag it, or let it move by the button beside it.")},
          {at.deck, tr("The deck: the ruler that you scrub, and the Time Chart, where output time runs to the right and source time up. D makes it tall.")},
          {at.transport, tr("Space plays, also while you drag. Ctrl+R renders. F1 opens the manual, at whatever is in hand.")}};
}

void show(QWidget* window, const QString& title, const QString& words) {
  QMessageBox(QMessageBox::NoIcon, title, words, QMessageBox::Close, window).exec();
}

}  // namespace

void fillHelpMenu(Commands& commands, QMenu* menu, const Session& session, const TourPlaces& places, QWidget* window) {
  commands.tell(tr("1 … 9"), tr("select a stage"));
  commands.tell(tr("Tab"), tr("from the Chain to the Dials, the deck and the transport; with Shift back"));
  commands.tell(tr("Wheel"), tr("zooms the Picture, Across and Down, the deck; in the deck with Shift along, with Ctrl up"));
  commands.tell(tr("Double click"), tr("on the Picture: fit and 100 %; on a dial's name: its default"));
  commands.tell(tr("Ctrl and a click on the Picture"), tr("the row and column of Across and Down"));
  commands.tell(tr("Shift, dragging a handle"), tr("keeps to straight lines"));
  commands.tell(tr("Shift and a click on a value's square"), tr("sets a key there, or takes it away"));
  commands.tell(tr("↑ ↓, [ ]"), tr("on the chart: the speed of the span in hand, the glide of the mark"));
  auto* manual = new ManualView(window);
  commands.add(menu, tr("Manual"), QKeySequence("F1"), [&session, manual] {
    const auto stage = session.selectedStage();
    manual->openAt(stage ? pageOf(session.project().chain[*stage].kind->description()) : QString("first-effect"));
  });
  auto* tour = new Tour(window);
  QObject::connect(tour, &Tour::left, window, [] { QSettings().setValue("tour taken", true); });
  commands.add(menu, tr("A look round"), {}, [tour, places] { tour->begin(lookRound(places)); }, Needs::Footage);
  commands.add(menu, tr("Keys"), QKeySequence("Shift+F1"),
               [window, &commands] { showKeys(window, commands.keysPage()); });
  commands.add(menu, tr("About Molten Clock"), {}, [window] {
    show(window, tr("About Molten Clock"),
         tr("Molten Clock 0.1\n\nDecides when every pixel of every frame is taken from.\n\nFree software under "
            "the GNU General Public License, version 3 or later."));
  });
}

}  // namespace molten
