#pragma once
// Pictures of a chain, from a feed of frames.

#include <memory>
#include <stop_token>

#include "core/engine/flow_cache.h"
#include "core/engine/frame_feed.h"
#include "core/engine/picture_plan.h"
#include "core/engine/sources.h"
#include "core/parallel.h"

namespace molten {

class SourceMaterial;
struct OwnSource;

class Evaluator {
 public:
  /// Assembles with `threads` threads. The result does not depend on their number.
  Evaluator(std::shared_ptr<Sources> sources, int threads, Urgency urgency = Urgency::Shown);
  /// Over footage, with other sources of its own.
  Evaluator(std::shared_ptr<FrameFeed> feed, int threads);
  ~Evaluator();

  /// Of the footage.
  FrameFeed& feed() { return *feed_; }
  Sources& sources() { return *sources_; }
  /// `previous`: a plan whose work may serve again, or nullptr. `source`: nullptr: the footage. What other sources the
  /// chain reads is opened.
  PicturePlan plan(const Chain& chain, const PlanSettings& settings, const PicturePlan* previous = nullptr,
                   const std::shared_ptr<const SourceVideo>& source = {});
  /// A source of a reel's shot; nullptr: it cannot be had.
  std::shared_ptr<const SourceVideo> source(const OwnSource& use);
  /// The picture at a moment. Where its frames do not fit the budget together they are fetched in lots.
  Result<Picture> picture(const PicturePlan& plan, const Moment& moment, std::stop_token stop);
  /// True where pictures since the last plan had fields or values made of the video's own: what those read is not known before
  /// that is decoded.
  bool looksAtVideo() const;

 private:
  /// Where a ChainPlan's frames come from: decoded, or mixed.
  class Frames;
  class DecodedFrames;
  class MixedFrames;
  Result<Picture> made(const PicturePlan& plan, const Moment& moment, std::stop_token stop);
  /// Before the pixel work at the end.
  Result<Picture> plain(const PicturePlan& plan, const Moment& moment, std::stop_token stop);
  Result<Picture> evenlyBetween(const ChainPlan& plan, Frames& from, const EvenPair& pair, std::stop_token stop);
  Result<Picture> gathered(const ChainPlan& plan, Frames& from, const Moment& moment, std::stop_token stop);
  Result<Picture> inLots(const ChainPlan& plan, Frames& from, const Gathering& gathering, std::stop_token stop);
  Result<Picture> flowInLots(const ChainPlan& plan, Frames& from, const Gathering& gathering, std::stop_token stop);
  Result<Picture> mixed(const PicturePlan& plan, const Moment& moment, std::stop_token stop);
  /// In what form a mixture's sources are kept, nullptr: as they are; and which.
  struct Keeping {
    const KeptLight* form = nullptr;
    PictureCache::Room room;
    bool shared = true;  ///< by neighbouring pictures
  };
  Keeping keeping(const PicturePlan& plan, const Mixture& mixture, const Moment& moment) const;
  /// One of a mixture's sources; it is kept.
  Result<Picture> source(const PicturePlan& plan, const MixSource& source, const Keeping& keep, std::stop_token stop);
  /// Holds what footage some of a mixture's sources read; none if that does not fit.
  Result<FrameTable> framesOf(const PicturePlan& plan, std::span<const MixSource> sources, std::stop_token stop);

  FlowCache& flowsOf(const std::shared_ptr<FrameFeed>& feed);

  std::shared_ptr<Sources> sources_;
  std::shared_ptr<FrameFeed> feed_;
  std::map<std::weak_ptr<FrameFeed>, FlowCache, std::owner_less<>> flows_;
  ThreadLimit threads_;
  Urgency urgency_;
  std::shared_ptr<SourceMaterial> material_;
};

/// The picture from a table that holds all its frames, and the flows between them if the plan uses flow. On the threads
/// of the caller's ThreadLimit.
Picture assembled(const ChainPlan& plan, const Gathering& gathering, const FrameTable& table);
/// Likewise the picture at a moment.
Picture assembled(const ChainPlan& plan, const Moment& moment, const FrameTable& table);

}  // namespace molten
