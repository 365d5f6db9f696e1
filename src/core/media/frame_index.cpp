#include "core/media/frame_index.h"
#include "core/number_text.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

Rational asRational(AVRational r) {
  return r.den ? Rational(r.num, r.den) : Rational(0);
}

/// True if frame i stands at i/rate for all i, as well as ticks of the time base can say it.
bool standsAt(const std::vector<std::int64_t>& stamps, AVRational base, Rational rate) {
  if (rate <= Rational(0)) return false;
  const double tick = av_q2d(base), frame = 1 / rate.toDouble();
  const double tolerance = std::min(tick * 1.01, frame * 0.49);
  for (std::size_t i = 0; i < stamps.size(); ++i) {
    const double at = static_cast<double>(stamps[i] - stamps[0]) * tick;
    if (std::abs(at - static_cast<double>(i) * frame) > tolerance + 1e-9) return false;
  }
  return true;
}

/// The rate that frames of a varying rate mean, and are counted in. Where all of them stand on the grid of a usual
/// rate, frames having been left out, the lowest such rate. Where they stand about as far apart as those of one, that:
/// the whole number, unless they keep to the other one of the pair as closely as only that is kept to. Otherwise what
/// they measure.
Rational nominalRate(const std::vector<std::int64_t>& stamps, AVRational base) {
  static const Rational usual[] = {5,  6,  8,  {25, 2},       10, 12, 15,  {24000, 1001},  24,  25, {30000, 1001},
                                   30, 48, 50, {60000, 1001}, 60, 90, 100, {120000, 1001}, 120, 240};
  const double tick = av_q2d(base);
  const auto seconds = [&](std::size_t i) { return static_cast<double>(stamps[i] - stamps[0]) * tick; };
  for (const Rational rate : usual) {
    const double perSecond = rate.toDouble(), tolerance = std::min(0.2, std::max(0.02, tick * 1.01 * perSecond));
    bool fits = true;
    for (std::size_t i = 1; i < stamps.size() && fits; ++i) {
      const double at = seconds(i) * perSecond;
      fits = std::abs(at - std::round(at)) <= tolerance;
    }
    if (fits) return rate;
  }
  // Gaps count as the frames that are missing in them; frames that are late are not gaps.
  std::vector<double> apart;
  for (std::size_t i = 1; i < stamps.size(); ++i) apart.push_back(seconds(i) - seconds(i - 1));
  std::nth_element(apart.begin(), apart.begin() + static_cast<std::ptrdiff_t>(apart.size() / 2), apart.end());
  const double middle = apart[apart.size() / 2];
  double frames = 0, length = 0;
  for (const double one : apart)
    if (one < 100 * middle) frames += one > 1.8 * middle ? std::round(one / middle) : 1, length += one;
  const double measured = frames / length;
  const auto off = [&](Rational r) { return std::abs(r.toDouble() / measured - 1); };
  const Rational* best = nullptr;
  for (const auto& rate : usual) {
    const bool exact = rate.den() == 1001;
    if (off(rate) < (exact ? 2e-4 : 0.03) && (!best || off(rate) < off(*best))) best = &rate;
  }
  return best ? *best : Rational(std::max<std::int64_t>(1, std::llround(measured * 1000)), 1000);
}

FrameClock clockOf(const AVStream& stream, const std::vector<std::int64_t>& stamps, std::int64_t lastDuration) {
  const auto count = static_cast<std::int64_t>(stamps.size());
  const Rational base = asRational(stream.time_base);
  const Rational guessed[] = {asRational(stream.r_frame_rate), asRational(stream.avg_frame_rate)};
  if (count == 1) {
    const Rational rate = guessed[1] > Rational(0) && guessed[1] <= Rational(1000) ? guessed[1] : Rational(25);
    return FrameClock::constant(rate, 1);
  }
  const Rational length = Rational(stamps.back() - stamps.front()) * base;
  const Rational mean = Rational(count - 1) / length;
  for (const Rational rate : {guessed[0], guessed[1], usualRate(mean), mean})
    if (standsAt(stamps, stream.time_base, rate)) return FrameClock::constant(rate, count);
  const Rational nominal = nominalRate(stamps, stream.time_base);
  const Rational perTick = base * nominal;
  std::vector<double> at;
  at.reserve(stamps.size());
  for (const auto stamp : stamps) at.push_back((Rational(stamp - stamps.front()) * perTick).toDouble());
  const double last = lastDuration > 0 ? (Rational(lastDuration) * perTick).toDouble() : 1;
  const double end = at.back() + last;
  return FrameClock::stamped(nominal, std::move(at), end);
}

/// The order of frames by decoding everything once; the packets' ordinals ride along as time stamps.
Result<std::vector<std::int32_t>> orderByDecoding(const std::string& path, std::size_t packets,
                                                  const Progress& progress, std::stop_token stop) {
  auto demuxer = Demuxer::open(path);
  if (!demuxer) return demuxer.error();
  auto decoder = demuxer->decoder(2);
  if (!decoder) return decoder.error();
  std::vector<std::int32_t> order;
  auto packet = newPacket();
  auto frame = newFrame();
  std::int64_t ordinal = 0;
  for (bool more = true; more;) {
    if (stop.stop_requested()) return cancelledError();
    more = demuxer->read(*packet);
    if (more) {
      packet->pts = packet->dts = ordinal++;
      if (progress) progress(0.2 + 0.8 * static_cast<double>(ordinal) / static_cast<double>(packets));
    }
    avcodec_send_packet(decoder->get(), more ? packet.get() : nullptr);
    av_packet_unref(packet.get());
    while (avcodec_receive_frame(decoder->get(), frame.get()) >= 0) {
      const auto at = frame->pts;
      if (at >= 0 && at < static_cast<std::int64_t>(packets)) order.push_back(static_cast<std::int32_t>(at));
    }
  }
  return order;
}

/// How many frames a file tells of; 0 where it does not.
std::int64_t promisedFrames(const Demuxer& demuxer) {
  const AVStream& stream = demuxer.stream();
  if (stream.nb_frames > 0) return stream.nb_frames;
  // Matroska tells how long each stream is, as 00:00:06.000000000.
  const AVDictionaryEntry* const length = av_dict_get(stream.metadata, "DURATION", nullptr, 0);
  const std::string text = length ? length->value : "";
  const auto first = text.find(':'), second = text.find(':', first + 1);
  if (first == text.npos || second == text.npos) return 0;
  const auto hours = readWhole(text.substr(0, first)), minutes = readWhole(text.substr(first + 1, second - first - 1));
  const auto seconds = readNumber(text.substr(second + 1));
  if (!hours || !minutes || !seconds) return 0;
  const double rate = av_q2d(stream.avg_frame_rate.num > 0 ? stream.avg_frame_rate : stream.r_frame_rate);
  const double frames = (static_cast<double>(*hours) * 3600 + static_cast<double>(*minutes) * 60 + *seconds) * rate;
  return frames > 0 && frames < 1e9 ? static_cast<std::int64_t>(std::floor(frames * 0.98)) : 0;
}

}  // namespace

std::int32_t FrameIndex::startFor(std::int32_t frame, int stepsBack) const {
  std::int32_t at = frames[static_cast<std::size_t>(frame)];
  for (; at > 0; --at) {
    const IndexedPacket& p = packets[static_cast<std::size_t>(at)];
    if (!p.key || p.frame > frame) continue;
    if (stepsBack-- == 0) break;
  }
  return at;
}

std::int32_t FrameIndex::startFrameFor(std::int32_t frame) const {
  const std::int32_t start = packets[static_cast<std::size_t>(startFor(frame))].frame;
  return start < 0 ? frame : start;
}

Result<FrameIndex> indexFrames(const std::string& path, const Progress& progress, std::stop_token stop) {
  auto demuxer = Demuxer::open(path);
  if (!demuxer) return demuxer.error();
  FrameIndex index;
  index.stamp = stampOf(path);
  auto packet = newPacket();
  std::int64_t lastDuration = 0, bytes = 0;
  bool stamped = true;
  while (demuxer->read(*packet)) {
    if (stop.stop_requested()) return cancelledError();
    const bool shows = !(packet->flags & AV_PKT_FLAG_DISCARD) && packet->size > 0;
    stamped = stamped && (!shows || packet->pts != AV_NOPTS_VALUE);
    index.packets.push_back(
        {packet->pts, packet->dts, packet->pos, packet->size, shows ? 0 : -1, (packet->flags & AV_PKT_FLAG_KEY) != 0});
    lastDuration = packet->duration;
    bytes += packet->size;
    if (progress && index.packets.size() % 64 == 0)
      progress(std::min(
          1.0, static_cast<double>(bytes) / static_cast<double>(std::max<std::int64_t>(1, demuxer->fileSize()))));
    av_packet_unref(packet.get());
  }
  const auto noFrames = Error{fileName(path) + " holds no frame that can be decoded: it is cut short or damaged."};
  for (std::size_t i = 0; i < index.packets.size(); ++i)
    if (index.packets[i].frame == 0) index.frames.push_back(static_cast<std::int32_t>(i));
  if (index.frames.empty()) return noFrames;
  const auto ptsOf = [&](std::int32_t i) { return index.packets[static_cast<std::size_t>(i)].pts; };
  if (stamped) {
    std::stable_sort(index.frames.begin(), index.frames.end(), [&](auto a, auto b) { return ptsOf(a) < ptsOf(b); });
    for (std::size_t i = 1; i < index.frames.size() && stamped; ++i)
      stamped = ptsOf(index.frames[i - 1]) != ptsOf(index.frames[i]);
  }
  const AVStream& stream = demuxer->stream();
  if (const auto promised = promisedFrames(*demuxer); promised > static_cast<std::int64_t>(index.frames.size()) + 1)
    index.warnings.push_back(fileName(path) + " is cut short or damaged: it tells of " + std::to_string(promised) +
                             " frames, and " + std::to_string(index.frames.size()) + " are there.");
  if (stamped) {
    std::vector<std::int64_t> stamps;
    for (const auto i : index.frames) stamps.push_back(ptsOf(i));
    index.clock = clockOf(stream, stamps, lastDuration);
  } else {
    auto order = orderByDecoding(path, index.packets.size(), progress, stop);
    if (!order) return order.error();
    if (order->empty()) return noFrames;
    index.frames = std::move(*order);
    Rational rate = asRational(stream.avg_frame_rate);
    if (rate <= Rational(0) || rate > Rational(1000)) rate = asRational(stream.r_frame_rate);
    if (rate <= Rational(0) || rate > Rational(1000)) rate = 25;
    index.clock = FrameClock::constant(rate, static_cast<std::int64_t>(index.frames.size()));
    index.warnings.push_back(fileName(path) + " carries no usable time stamps; its frames are taken as " +
                             rateText(rate) + " a second.");
  }
  for (auto& p : index.packets) p.frame = -1;
  for (std::size_t i = 0; i < index.frames.size(); ++i)
    index.packets[static_cast<std::size_t>(index.frames[i])].frame = static_cast<std::int32_t>(i);
  if (progress) progress(1);
  return index;
}

}  // namespace molten
