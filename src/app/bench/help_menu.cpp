#include "app/bench/help_menu.h"

#include <QMenu>
#include <QMessageBox>
#include <utility>

#include "app/commands/commands.h"

namespace molten {
namespace {

QString tr(const char* words) {
  return QObject::tr(words);
}

QString keysTable() {
  const std::pair<QString, QString> keys[] = {
      {tr("Space"), tr("play and stop")},
      {tr("J K L"), tr("back, stop, on; again for faster")},
      {tr("← →"), tr("one frame; with Shift ten")},
      {tr("Home, End"), tr("to in, to out")},
      {tr("I, O"), tr("in and out at the playhead; Alt+X the whole clip")},
      {tr("B, held"), tr("the footage without the chain")},
      {tr("W, Shift+W, Shift+D"), tr("compare: wipe, side by side, difference")},
      {tr("Ctrl+Shift+B, Shift+B"), tr("keep version B; change A and B over")},
      {tr("E"), tr("frame borders")},
      {tr("Ctrl+click on the Picture"), tr("the row and column of Across and Down")},
      {tr("F"), tr("the Picture fills the window")},
      {tr("Wheel"), tr("zoom; double-click for fit and 100 %")},
      {tr("Shift, dragging"), tr("handles keep to straight lines")},
      {tr("A"), tr("add a stage")},
      {tr("M"), tr("mark at the playhead; Ctrl+← Ctrl+→ to the next one")},
      {tr("↑ ↓, [ ]"), tr("on the chart: a span's speed, a mark's glide")},
      {tr("1 … 9"), tr("select a stage; Ctrl+B on or off, Delete removes it")},
      {tr("Ctrl+R"), tr("render")}};
  QString rows;
  for (const auto& [key, does] : keys)
    rows += QString("<tr><td style=\"padding-right:16px\"><b>%1</b></td><td>%2</td></tr>").arg(key, does);
  return "<table>" + rows + "</table>";
}

void show(QWidget* window, const QString& title, const QString& words) {
  QMessageBox(QMessageBox::NoIcon, title, words, QMessageBox::Close, window).exec();
}

}  // namespace

void fillHelpMenu(Commands& commands, QMenu* menu, QWidget* window) {
  commands.add(menu, tr("Keys"), QKeySequence::HelpContents, [window] { show(window, tr("Keys"), keysTable()); });
  commands.add(menu, tr("About Molten Clock"), {}, [window] {
    show(window, tr("About Molten Clock"),
         tr("Molten Clock 0.1\n\nDecides when every pixel of every frame is taken from.\n\nFree software under "
            "the GNU General Public License, version 3 or later."));
  });
}

}  // namespace molten
