#include "app/help/tour.h"

#include <QEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

/// Round what is spoken of. The mouse goes through it.
class Outline : public QWidget {
 public:
  explicit Outline(QWidget* window) : QWidget(window) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
    hide();
  }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    painter.setPen(QPen(theme::now, 2));
    painter.drawRect(rect().adjusted(1, 1, -1, -1));
  }
};

}  // namespace

Tour::Tour(QWidget* window) : QWidget(window), frame_(new Outline(window)) {
  setObjectName("tour");
  hide();
  setFixedWidth(320);
  count_ = theme::note();
  words_ = new QLabel;
  words_->setObjectName("words");
  words_->setWordWrap(true);
  leave_ = new QPushButton(tr("Leave"));
  leave_->setObjectName("leave");
  next_ = new QPushButton(tr("Next"));
  next_->setObjectName("next");
  next_->setProperty("primary", true);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(8);
  buttons->addWidget(count_, 1);
  buttons->addWidget(leave_);
  buttons->addWidget(next_);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 14, 16, 14);
  column->setSpacing(12);
  column->addWidget(words_);
  column->addLayout(buttons);
  window->installEventFilter(this);
  connect(next_, &QPushButton::clicked, this, [this] {
    ++at_;
    step();
  });
  connect(leave_, &QPushButton::clicked, this, &Tour::leave);
}

void Tour::begin(std::vector<TourStep> steps) {
  if (goesOn()) return;
  std::erase_if(steps, [](const TourStep& one) { return !one.at || !one.at->isVisible(); });
  steps_ = std::move(steps);
  at_ = 0;
  step();
}

void Tour::step() {
  if (at_ >= steps_.size()) return leave();
  words_->setText(steps_[at_].words);
  count_->setText(tr("%1 of %2").arg(at_ + 1).arg(steps_.size()));
  next_->setText(at_ + 1 == steps_.size() ? tr("Done") : tr("Next"));
  show();
  place();
}

void Tour::leave() {
  hide();
  frame_->hide();
  emit left();
}

bool Tour::eventFilter(QObject* watched, QEvent* event) {
  if (goesOn() && event->type() == QEvent::Resize) place();
  return QWidget::eventFilter(watched, event);
}

/// The card stands where it hides least of what it speaks of.
void Tour::place() {
  QWidget* const window = parentWidget();
  QWidget* const at = at_ < steps_.size() ? steps_[at_].at.data() : nullptr;
  if (!at) return;
  resize(width(), layout()->heightForWidth(width()));
  const QRect there(at->mapTo(window, QPoint()), at->size());
  constexpr int gap = 12;
  const QSize size = this->size();
  const QRect places[] = {{QPoint(there.left(), there.bottom() + gap), size},
                          {QPoint(there.left(), there.top() - gap - size.height()), size},
                          {QPoint(there.left() - gap - size.width(), there.top()), size},
                          {QPoint(there.right() + gap, there.top()), size},
                          {QPoint(there.right() - size.width() - gap, there.bottom() - size.height() - gap), size}};
  const auto* best = std::find_if(std::begin(places), std::end(places) - 1, [&](const QRect& one) { return window->rect().contains(one); });
  move(best->topLeft());
  frame_->setGeometry(there);
  frame_->show();
  frame_->raise();
  raise();
  next_->setFocus();
}

void Tour::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(theme::now);
  painter.setBrush(theme::raised);
  painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
}

}  // namespace molten
