#include "app/chart/deck.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <QWheelEvent>
#include <algorithm>

#include "app/chart/chart_measures.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

/// Of the room below the ruler: what the chart keeps, whatever lanes there are.
constexpr double chartShare = 0.56;
constexpr int leastLane = 26;

}  // namespace

Deck::Deck(QWidget* parent) : QWidget(parent) {
  setAutoFillBackground(true);
  setMinimumHeight(96);
  scrubber_ = new Scrubber;
  plot_ = new ChartPlot;
  lanes_ = new KeyLanes;
  sounds_ = new SoundLanes;
  auto* const both = new QWidget;
  auto* const under = new QVBoxLayout(both);
  under->setContentsMargins(0, 0, 0, 0);
  under->setSpacing(0);
  under->addWidget(lanes_);
  under->addWidget(sounds_);
  lanesFrame_ = new QScrollArea;
  lanesFrame_->setWidget(both);
  lanesFrame_->setWidgetResizable(true);
  lanesFrame_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  lanesFrame_->setFocusPolicy(Qt::NoFocus);
  lanesFrame_->hide();
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(scrubber_);
  column->addWidget(plot_, 1);
  column->addWidget(lanesFrame_);
  // In the ruler's gutter: what is up, and all of it in sight.
  up_ = gutterButton(tr("source time"), "chartUp",
                     tr("Upward: the source's time, where a slope is a speed, flat a freeze, down backwards; or the "
                        "speed itself. A click changes over."));
  fit_ = gutterButton(tr("fit"), "chartFit", tr("All of the output and the source in sight"));
  auto* gutter = new QHBoxLayout(scrubber_);
  gutter->setContentsMargins(3, 2, 0, 2);
  gutter->setSpacing(2);
  gutter->addWidget(up_);
  gutter->addWidget(fit_);
  gutter->addStretch(1);
  said_ = new QLabel(this);
  said_->setObjectName("chartSaid");
  said_->setProperty("dim", true);
  said_->setAttribute(Qt::WA_TransparentForMouseEvents);
  said_->setStyleSheet("background: rgba(19, 20, 22, 190); border-radius: 3px; padding: 1px 5px;");
  connect(up_, &QPushButton::clicked, this,
          [this] { setUp(up() == ChartUp::Source ? ChartUp::Speed : ChartUp::Source); });
  connect(fit_, &QPushButton::clicked, plot_, &ChartPlot::fit);
  connect(plot_, &ChartPlot::viewChanged, this, &Deck::showView);
  connect(plot_, &ChartPlot::said, this, &Deck::say);
  connect(lanes_, &KeyLanes::said, this, &Deck::say);
  connect(lanes_, &KeyLanes::counted, this, &Deck::shareRoom);
  connect(sounds_, &SoundLanes::said, this, &Deck::say);
  connect(sounds_, &SoundLanes::counted, this, &Deck::shareRoom);
  // Zoom and pan act on all of it, wherever the wheel is.
  for (QWidget* const lane : {static_cast<QWidget*>(scrubber_), static_cast<QWidget*>(lanes_), static_cast<QWidget*>(sounds_)})
    lane->installEventFilter(this);
}

QPushButton* Deck::gutterButton(const QString& words, const char* name, const QString& help) {
  auto* made = new QPushButton(words);
  made->setObjectName(name);
  made->setToolTip(help);
  made->setFocusPolicy(Qt::TabFocus);
  made->setCursor(Qt::ArrowCursor);
  made->setStyleSheet("font-size: 10px; padding: 0px 4px;");
  return made;
}

void Deck::setUp(ChartUp up) {
  plot_->setUp(up);
  up_->setText(up == ChartUp::Source ? tr("source time") : tr("speed"));
}

void Deck::setState(const ChartState& state) {
  remark_ = state.remark;
  say({});
  for (auto* const button : {up_, fit_}) button->setEnabled(state.footage);
  plot_->setState(state);
}

void Deck::showView() {
  scrubber_->setView(plot_->sight().view);
  lanes_->setView(plot_->sight().view);
  sounds_->setView(plot_->sight().view);
}

/// Chart and lanes share what is there: lanes become lower, then they scroll; the chart stays legible.
void Deck::shareRoom() {
  const auto keys = static_cast<int>(lanes_->sight().count()), sounds = static_cast<int>(sounds_->sight().count());
  const int count = keys + sounds;
  lanes_->setVisible(keys > 0);
  sounds_->setVisible(sounds > 0);
  lanesFrame_->setVisible(count > 0);
  if (count == 0) return;
  const int room = height() - scrubber_->height();
  // Four lanes are in sight at a time, where that leaves the chart its half.
  const int most = std::max(static_cast<int>(room * (1 - chartShare)), std::min(4 * leastLane, room * 55 / 100));
  const int each = std::clamp(most / count, leastLane, KeyLanes::laneHeight);
  lanes_->setFixedHeight(each * keys);
  sounds_->setFixedHeight(each * sounds);
  lanesFrame_->setFixedHeight(std::min(each * count, std::max(most, each)));
}

void Deck::say(const QString& words) {
  const QString& now = words.isEmpty() ? remark_ : words;
  if (said_->text() == now) return;
  said_->setText(now);
  placeSaid();
}

/// At the chart's upper right, over it.
void Deck::placeSaid() {
  said_->setVisible(!said_->text().isEmpty());
  said_->adjustSize();
  said_->move(std::max(static_cast<int>(chart::gutterWidth), width() - said_->width() - 8), scrubber_->height() + 3);
  said_->raise();
}

void Deck::resizeEvent(QResizeEvent*) {
  shareRoom();
  placeSaid();
}

bool Deck::eventFilter(QObject* object, QEvent* event) {
  if (event->type() != QEvent::Wheel) return false;
  const auto* wheel = static_cast<QWheelEvent*>(event);
  const auto* const lane = static_cast<QWidget*>(object);
  const QPointF at(wheel->position().x(), plot_->height() / 2.0);
  QWheelEvent on(at, lane->mapToGlobal(wheel->position()), wheel->pixelDelta(), wheel->angleDelta(), wheel->buttons(),
                 wheel->modifiers(), wheel->phase(), wheel->inverted());
  QApplication::sendEvent(plot_, &on);
  return true;
}

}  // namespace molten
