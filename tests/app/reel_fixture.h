#pragma once
// A window with several shots in a row.

#include <QDropEvent>
#include <QMimeData>
#include <QUrl>

#include "app/playback/transport.h"
#include "app/reel/reel_strip.h"
#include "bench_fixture.h"

namespace molten::test {

class ReelTest : public BenchTest {
 protected:
  ReelStrip& strip() { return *bench->findChild<ReelStrip*>(); }

  /// Of 30 pictures a second; a negative one shows what its numbers lack of 65535.
  std::string numbered(const char* name, int frames, bool negative = false) {
    const std::string path = folder / name;
    if (!std::filesystem::exists(path)) makeNumberedClip(path, frames, {320, 180}, negative ? "-vf negate -c:v ffv1" : "-c:v ffv1");
    return path;
  }

  void drop(QWidget& widget, const QPointF& at, const std::vector<std::string>& paths) {
    QList<QUrl> urls;
    for (const std::string& path : paths) urls << QUrl::fromLocalFile(QString::fromStdString(path));
    QMimeData files;
    files.setUrls(urls);
    QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&widget, &enter);
    QDropEvent let(at, Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&widget, &let);
  }

  /// Two seconds, one, and two thirds.
  void three() {
    drop(*bench, {300, 300}, {numbered("a.mkv", 60), numbered("b.mkv", 30, true), numbered("c.mkv", 20)});
    ASSERT_TRUE(known(110));
    ASSERT_TRUE(shows(0));
  }
  /// What all shots give is known.
  ::testing::AssertionResult known(int pictures) {
    const auto label = [&] {
      for (const QLabel* const one : bench->findChild<Transport*>()->findChildren<QLabel*>())
        if (one->text().startsWith("frame ")) return one->text();
      return QString();
    };
    if (until([&] { return label().endsWith(QString("of %1").arg(pictures)); })) return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << label().toStdString() << " is not of " << pictures;
  }
  QStringList titles() {
    QStringList all;
    for (const StripShot& shot : strip().state().shots) all << shot.title;
    return all;
  }
  void click(std::size_t shot) { QTest::mouseClick(&strip(), Qt::LeftButton, {}, strip().shotRect(shot).center()); }
};

}  // namespace molten::test
