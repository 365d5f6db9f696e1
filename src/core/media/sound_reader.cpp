#include "core/media/sound_reader.h"

#include "core/media/plain_processor.h"

#include <algorithm>
#include <limits>
#include <numeric>

extern "C" {
#include <libavutil/channel_layout.h>
#include <libavutil/opt.h>
#include <libswresample/swresample.h>
}

namespace molten {
namespace {

constexpr std::int64_t always = std::numeric_limits<std::int64_t>::max() / 4;
/// Seconds: what lies no farther ahead is decoded on the way to it; longer silence is not written out; time stamps that go
/// back farther than this begin anew.
constexpr std::int64_t nearAhead = 10, shortSilence = 2, farBack = 10;
/// Samples that a decoder, and the change of rate, need after a jump before what they give is right.
constexpr std::int64_t decoderWarmUp = 8192, rateWarmUp = 128;
/// Of what was read, kept before what is asked for: what is read backwards is asked for in stretches.
constexpr std::int64_t keptBehind = soundRate;

std::int64_t floorDivided(std::int64_t a, std::int64_t b) {
  return a / b - (a % b < 0 ? 1 : 0);
}

/// Sample numbers at another rate: the nearest one not after, or not before.
std::int64_t atRate(std::int64_t sample, std::int64_t from, std::int64_t to) {
  return (Rational(sample) * Rational(to, from)).floor();
}
std::int64_t atRateUp(std::int64_t sample, std::int64_t from, std::int64_t to) {
  return -atRate(-sample, from, to);
}

}  // namespace

Result<std::unique_ptr<SoundReader>> SoundReader::open(const std::string& path, std::optional<Rational> beginning) {
  std::unique_ptr<SoundReader> reader(new SoundReader);
  reader->path_ = path;
  if (auto learnt = reader->learn(beginning); !learnt) return learnt.error();
  return reader;
}

SoundReader::~SoundReader() {
  swr_free(&converter_);
}

Status SoundReader::learn(std::optional<Rational> beginning) {
  if (auto begun = restart(); !begun) return begun;
  const AVStream& stream = demuxer_->stream();
  const AVCodecParameters& parameters = *stream.codecpar;
  beginning_ = beginning ? beginning : demuxer_->picturesBegin();
  if (stream.time_base.num <= 0 || stream.time_base.den <= 0 || parameters.sample_rate <= 0)
    return Error{fileName(path_) + " has sound in it that cannot be read: it says no rate."};
  const Rational tick(stream.time_base.num, stream.time_base.den);
  slack_ = (tick * Rational(parameters.sample_rate)).floor() + 2;
  // The first may be cut, so that the second tells how long they are.
  constexpr int looked = 3;
  while (seen_ < looked && !ended_)
    if (auto decoded = decodeOn(); !decoded) return decoded;
  if (seen_ == 0) return Error{fileName(path_) + " holds no sound that can be decoded: it is cut short or damaged."};
  description_.rate = parameters.sample_rate;
  description_.channels = parameters.ch_layout.nb_channels;
  description_.codec = avcodec_get_name(parameters.codec_id);
  const Rational whole = stream.duration != AV_NOPTS_VALUE ? Rational(stream.duration) * tick
                         : demuxer_->format().duration != AV_NOPTS_VALUE
                             ? Rational(demuxer_->format().duration, AV_TIME_BASE)
                             : Rational(0);
  const Rational start = stream.start_time != AV_NOPTS_VALUE ? Rational(stream.start_time) * tick : *beginning_;
  if (whole > Rational(0))
    description_.length = std::max<std::int64_t>(0, ((start + whole - *beginning_) * Rational(soundRate)).floor());
  return {};
}

void SoundReader::forget() {
  swr_free(&converter_);
  form_ = {};
  stretches_.clear();
  ended_ = false;
}

/// From the first packet on, whatever the file can do.
Status SoundReader::restart() {
  auto demuxer = Demuxer::open(path_, AVMEDIA_TYPE_AUDIO);
  if (!demuxer) return demuxer.error();
  auto decoder = [&] {
    const PlainProcessor plain;
    return demuxer->decoder(1);
  }();
  if (!decoder) return decoder.error();
  forget();
  decoder_ = std::move(*decoder);
  demuxer_ = std::make_unique<Demuxer>(std::move(*demuxer));
  decoder_->pkt_timebase = demuxer_->stream().time_base;
  jumped_ = false;
  from_ = to_ = -always;
  return {};
}

std::int64_t SoundReader::placeOf(const AVFrame& frame) const {
  const bool running = converter_ != nullptr;
  if (frame.best_effort_timestamp == AV_NOPTS_VALUE) return running ? fed_ : 0;
  const AVRational tick = demuxer_->stream().time_base;
  const Rational seconds = Rational(frame.best_effort_timestamp) * Rational(tick.num, tick.den) - *beginning_;
  const std::int64_t stamped = (seconds * Rational(frame.sample_rate) + Rational(1, 2)).floor();
  if (running && std::abs(stamped - fed_) <= slack_) return fed_;
  // A coarse clock says where a frame lies among those that are all as long.
  if (grid_ > 0 && frame.sample_rate == description_.rate) {
    const std::int64_t on = firstPlace_ + floorDivided(stamped - firstPlace_ + grid_ / 2, grid_) * grid_;
    if (std::abs(on - stamped) <= slack_) return on;
  }
  return stamped;
}

Status SoundReader::take(const AVFrame& frame) {
  if (frame.nb_samples <= 0 || frame.sample_rate <= 0 || frame.ch_layout.nb_channels <= 0) return {};
  if (!beginning_) {
    const AVRational tick = demuxer_->stream().time_base;
    const bool stamped = frame.best_effort_timestamp != AV_NOPTS_VALUE;
    beginning_ = stamped ? Rational(frame.best_effort_timestamp) * Rational(tick.num, tick.den) : Rational(0);
  }
  const Form form{frame.sample_rate, frame.format, frame.ch_layout.nb_channels,
                  frame.ch_layout.order == AV_CHANNEL_ORDER_NATIVE ? frame.ch_layout.u.mask : 0};
  if (converter_ && !(form == form_)) {
    finish();
    swr_free(&converter_);
  }
  std::int64_t place = placeOf(frame);
  if (seen_ < 3) {
    if (seen_ == 1) firstPlace_ = place, grid_ = frame.nb_samples;
    if (seen_ == 2 && grid_ != frame.nb_samples) grid_ = 0;
    ++seen_;
  }
  if (converter_ && place < fed_ - farBack * form_.rate) place = fed_;
  if (converter_ && place > fed_ + shortSilence * form_.rate) {
    finish();
    swr_free(&converter_);
  }
  if (!converter_)
    if (auto begun = begin(frame, form, place); !begun) return begun;
  if (place > fed_)
    if (auto silent = silence(place - fed_); !silent) return silent;
  // What is there already is not heard twice.
  const auto over = static_cast<int>(std::min<std::int64_t>(fed_ - place, frame.nb_samples));
  if (over == frame.nb_samples) return {};
  const int bytes = av_get_bytes_per_sample(static_cast<AVSampleFormat>(frame.format));
  const bool planar = av_sample_fmt_is_planar(static_cast<AVSampleFormat>(frame.format)) != 0;
  std::vector<const std::uint8_t*> data;
  for (int c = 0; c < (planar ? form.channels : 1); ++c)
    data.push_back(frame.extended_data[c] + static_cast<std::ptrdiff_t>(over) * bytes * (planar ? 1 : form.channels));
  fed_ += frame.nb_samples - over;
  return convert(data.data(), frame.nb_samples - over);
}

/// Converters begin where a sample of theirs lies on one of ours, so that it does not matter where they began.
Status SoundReader::begin(const AVFrame& frame, const Form& form, std::int64_t place) {
  AVChannelLayout in{}, out = AV_CHANNEL_LAYOUT_STEREO;
  if (frame.ch_layout.order == AV_CHANNEL_ORDER_UNSPEC)
    av_channel_layout_default(&in, form.channels);
  else
    av_channel_layout_copy(&in, &frame.ch_layout);
  int failed = swr_alloc_set_opts2(&converter_, &out, AV_SAMPLE_FMT_FLT, soundRate, &in,
                                   static_cast<AVSampleFormat>(form.format), form.rate, 0, nullptr);
  if (failed >= 0) {
    av_opt_set_int(converter_, "exact_rational", 1, 0);
    av_opt_set_int(converter_, "filter_size", 64, 0);
    av_opt_set_double(converter_, "cutoff", 0.95, 0);
    // One channel is heard as loud in both; more of them together no louder than full scale.
    const double both[] = {1, 1};
    if (form.channels == 1) swr_set_matrix(converter_, both, 1);
    av_opt_set_double(converter_, "rematrix_maxval", 1, 0);
    const PlainProcessor plain;
    failed = swr_init(converter_);
  }
  av_channel_layout_uninit(&in);
  if (failed < 0) {
    swr_free(&converter_);
    return Error{fileName(path_) + " has sound of " + std::to_string(form.channels) +
                 " channels in an order that cannot be mixed down. Mix it to two channels first."};
  }
  form_ = form;
  const std::int64_t apart = form.rate / std::gcd(form.rate, soundRate);
  const std::int64_t start = floorDivided(place, apart) * apart;
  stretches_.push_back({atRate(start, form.rate, soundRate), {}});
  if (jumped_) from_ = atRateUp(place + decoderWarmUp + rateWarmUp, form.rate, soundRate);
  jumped_ = false;
  to_ = std::max(to_, stretches_.back().first);
  fed_ = start;
  return {};
}

Status SoundReader::convert(const std::uint8_t* const* data, int samples) {
  std::vector<float>& values = stretches_.back().values;
  const std::size_t had = values.size();
  const int most = swr_get_out_samples(converter_, samples) + 64;
  values.resize(had + static_cast<std::size_t>(most) * soundChannels);
  auto* out = reinterpret_cast<std::uint8_t*>(values.data() + had);
  // The parameter is not const in this version of the library, though it is only read.
  const int got = swr_convert(converter_, &out, most, const_cast<const std::uint8_t**>(data), samples);
  values.resize(had + static_cast<std::size_t>(std::max(0, got)) * soundChannels);
  if (got < 0) return Error{fileName(path_) + " has sound that cannot be converted (" + avErrorText(got) + ")."};
  to_ = std::max(to_, stretches_.back().end());
  return {};
}

Status SoundReader::silence(std::int64_t samples) {
  fed_ += samples;
  std::vector<float>& values = stretches_.back().values;
  if (form_.rate == soundRate) {
    values.resize(values.size() + static_cast<std::size_t>(samples) * soundChannels);
    to_ = std::max(to_, stretches_.back().end());
    return {};
  }
  swr_inject_silence(converter_, static_cast<int>(samples));
  const std::uint8_t* none[AV_NUM_DATA_POINTERS] = {};
  return convert(none, 0);
}

/// What the converter still holds; not more than what was put in lasts.
void SoundReader::finish() {
  if (!converter_) return;
  if (form_.rate != soundRate) static_cast<void>(convert(nullptr, 0));
  Stretch& last = stretches_.back();
  const std::int64_t samples = std::max<std::int64_t>(0, atRateUp(fed_, form_.rate, soundRate) - last.first);
  last.values.resize(static_cast<std::size_t>(samples) * soundChannels);
  to_ = last.end();
}

Status SoundReader::decodeOn() {
  const bool more = demuxer_->read(*packet_);
  const int sent = avcodec_send_packet(decoder_.get(), more ? packet_.get() : nullptr);
  av_packet_unref(packet_.get());
  damaged_ += more && sent < 0;
  for (;;) {
    const int got = avcodec_receive_frame(decoder_.get(), frame_.get());
    if (got < 0) {
      damaged_ += got != AVERROR(EAGAIN) && got != AVERROR_EOF;
      break;
    }
    if (auto taken = take(*frame_); !taken) return taken;
  }
  if (more) return {};
  finish();
  if (!stretches_.empty()) end_ = stretches_.back().end();
  to_ = always;
  ended_ = true;
  return {};
}

/// To where decoding on leads to a sample.
Status SoundReader::goTo(std::int64_t first, std::stop_token stop) {
  if (from_ <= first && first <= to_ + nearAhead * soundRate) return {};
  const AVStream& stream = demuxer_->stream();
  const Rational tick(stream.time_base.num, stream.time_base.den);
  for (std::int64_t back = soundRate / 2; back < (std::int64_t(1) << 40); back *= 8) {
    const Rational seconds = Rational(first - back, soundRate) + *beginning_;
    const std::int64_t stamp = (seconds / tick).floor();
    if (stream.start_time != AV_NOPTS_VALUE && stamp <= stream.start_time) break;
    if (!demuxer_->seek(stamp)) break;
    avcodec_flush_buffers(decoder_.get());
    forget();
    jumped_ = true;
    from_ = always;
    to_ = -always;
    while (jumped_ && !ended_) {
      if (stop.stop_requested()) return cancelledError();
      if (auto decoded = decodeOn(); !decoded) return decoded;
    }
    if (!jumped_ && from_ <= first) return {};
  }
  return restart();
}

Status SoundReader::read(std::int64_t first, Sound& out, std::stop_token stop) {
  std::fill(out.values().begin(), out.values().end(), 0.0f);
  const std::int64_t last = first + static_cast<std::int64_t>(out.samples());
  if (auto there = goTo(first, stop); !there) {
    // Half of a jump is of no use to the next one.
    from_ = to_ = always;
    return there;
  }
  while (to_ < last && !ended_) {
    if (stop.stop_requested()) return cancelledError();
    if (auto decoded = decodeOn(); !decoded) return decoded;
    // On a long way nothing is kept but what may be asked for.
    while (stretches_.size() > 1 && stretches_.front().end() < first - keptBehind) {
      from_ = std::max(from_, stretches_.front().end());
      stretches_.pop_front();
    }
    Stretch& oldest = stretches_.front();
    const std::int64_t old = first - keptBehind - oldest.first;
    if (!stretches_.empty() && old > 4 * keptBehind && oldest.end() > first - keptBehind) {
      oldest.values.erase(oldest.values.begin(), oldest.values.begin() + old * soundChannels);
      oldest.first += old;
      from_ = std::max(from_, oldest.first);
    }
  }
  for (const Stretch& stretch : stretches_) {
    const std::int64_t a = std::max(first, stretch.first), b = std::min(last, stretch.end());
    if (a < b)
      std::copy_n(stretch.values.begin() + (a - stretch.first) * soundChannels, (b - a) * soundChannels,
                  out.values().begin() + (a - first) * soundChannels);
  }
  return {};
}

}  // namespace molten
