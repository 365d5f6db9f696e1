#include "app/sections/tracer.h"

#include <cmath>

#include "app/theme/theme.h"
#include "core/engine/source_material.h"

namespace molten {
namespace {

/// Where a pixel reads another frame than the one before it or above it.
QImage bordersOf(const ChainReading& reading, const Moment& moment, Size full, Size shown) {
  QImage image(shown.width, shown.height, QImage::Format_ARGB32_Premultiplied);
  image.fill(Qt::transparent);
  PlaneSites sites;
  sites.width = shown.width, sites.height = shown.height;
  sites.stepX = static_cast<double>(full.width) / shown.width,
  sites.stepY = static_cast<double>(full.height) / shown.height;
  sites.x0 = sites.stepX / 2, sites.y0 = sites.stepY / 2;
  const QRgb border = qPremultiply(qRgba(theme::now.red(), theme::now.green(), theme::now.blue(), 150));
  RowReads line;
  std::vector<std::int64_t> frames(static_cast<std::size_t>(shown.width)), above(frames.size());
  for (int y = 0; y < shown.height; ++y) {
    reading.row(moment, sites, y, line);
    for (std::size_t x = 0; x < frames.size(); ++x)
      frames[x] = std::isnan(line.offsets[x]) ? -1 : line.base + nearestWhole(line.offsets[x]);
    auto* const out = reinterpret_cast<QRgb*>(image.scanLine(y));
    for (std::size_t x = 0; x < frames.size(); ++x)
      if ((x > 0 && frames[x] != frames[x - 1]) || (y > 0 && frames[x] != above[x])) out[x] = border;
    above.swap(frames);
  }
  return image;
}

}  // namespace

Tracer::Tracer(QObject* parent) : QObject(parent) {
  thread_ = lastingThread(inbox_, [this](std::stop_token stop) { work(stop); });
}

Tracer::~Tracer() {
  thread_.request_stop();
  thread_.join();
}

void Tracer::setFootage(const std::shared_ptr<Sources>& sources) {
  ++number_;
  asked_ = false;
  const std::scoped_lock lock(mutex_);
  sources_ = sources;
  wanted_.reset();
  wantedNumber_ = number_;
}

void Tracer::ask(const TraceQuestion& question) {
  if (asked_ && question == last_) return;
  last_ = question;
  asked_ = true;
  const std::scoped_lock lock(mutex_);
  wanted_ = question;
  changed_.notify_all();
}

void Tracer::work(std::stop_token stop) {
  std::shared_ptr<Sources> sources;
  std::shared_ptr<SourceMaterial> material;
  std::optional<ChainReading> reading;
  TraceQuestion read;  ///< that the reading was made for
  while (!stop.stop_requested()) {
    TraceQuestion question;
    std::uint64_t number = 0;
    {
      std::unique_lock lock(mutex_);
      if (!changed_.wait(lock, stop, [&] { return wanted_ && sources_; })) return;
      question = *std::exchange(wanted_, std::nullopt);
      number = wantedNumber_;
      if (sources != sources_) {
        sources = sources_;
        material = std::make_shared<SourceMaterial>(sources, 1);
        reading.reset();
      }
    }
    const VideoDescription video = sources->footage()->video(question.between);
    const auto settled = std::make_shared<MaterialAt>(material, PlanSettings{1, question.between, 0, question.sounds});
    if (!reading || !(read.chain == question.chain) || read.between != question.between || !(read.sounds == question.sounds)) {
      reading.emplace(question.chain, video, settled, Chain{}, sources->footage()->clock());
      read = question;
    }
    auto answer = std::make_shared<TraceAnswer>();
    answer->now = reading->at(question.moment.pictures()).now;
    RowReads reads;
    // Where nothing is read, nothing is displaced.
    const auto positionAt = [&](std::size_t i) { return std::isnan(reads.offsets[i]) ? answer->now : reads.at(i); };
    const Size full = reading->outgoing().size;
    const double w = full.width, h = full.height;
    PlaneSites line;
    line.width = places, line.height = 1;
    line.stepX = w / places, line.x0 = line.stepX / 2;
    line.y0 = std::min(std::floor(question.row * h), h - 1) + 0.5;
    reading->row(question.moment, line, 0, reads);
    for (std::size_t i = 0; i < places; ++i) answer->across.push_back(positionAt(i));
    PlaneSites column;
    column.width = 1, column.height = places;
    column.stepY = h / places, column.y0 = column.stepY / 2;
    column.x0 = std::min(std::floor(question.column * w), w - 1) + 0.5;
    for (int y = 0; y < places; ++y) {
      reading->row(question.moment, column, y, reads);
      answer->down.push_back(positionAt(0));
    }
    if (question.hovered)
      answer->hovered = reading->at(question.moment, question.hovered->x * w, question.hovered->y * h);
    if (question.steps) answer->steps = bordersOf(*reading, question.moment, full, *question.steps);
    if (question.field)
      answer->field = fieldPicture(*reading, question.moment, full, *question.field, question.coarse, answer->now,
                                   video.rate.toDouble());
    if (question.stage && *question.stage < question.chain.size()) {
      const auto k = static_cast<std::ptrdiff_t>(*question.stage);
      const Chain upstream(question.chain.begin(), question.chain.begin() + k);
      // What is measured is the field, as it would be without what scatters it.
      const Stage& asked = question.chain[*question.stage];
      const Stage stage = asked.kind->withoutScatter(asked);
      const auto map = stage.kind->timeMap(stage, reading->video(*question.stage),
                                           {settled, std::make_shared<const Chain>(upstream)});
      if (const DisplacingMap* const displacing = map->displacing())
        answer->widths =
            stepWidths(*displacing->displacement(reading->present(*question.stage + 1, question.moment)),
                       reading->video(*question.stage).size);
    }
    answer->question = std::move(question);
    inbox_.post([this, number, answer] {
      if (number == number_) emit answered(*answer);
    });
  }
}

}  // namespace molten
