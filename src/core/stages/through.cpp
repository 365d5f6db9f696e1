#include "core/stages/through.h"

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

enum Parameter : std::size_t { PastEnds, Between };

class ThroughMap : public TimeMap {
 public:
  ThroughMap(const StageValues& values, const VideoDescription& in)
      : TimeMap(in), past_(pastTheEndsOf(values[PastEnds])), between_(inBetweenOf(values[Between])) {}
  bool wholePicture() const override { return true; }
  PastTheEnds pastTheEnds() const override { return past_; }
  InBetween inBetween() const override { return between_; }

 private:
  PastTheEnds past_;
  InBetween between_;
};

class Through : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {"through",
                                               "Through",
                                               "What enters, between its pictures and past its ends.",
                                               {pastTheEndsParameter(), inBetweenParameter()},
                                               {}};
    return described;
  }
  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<ThroughMap>(stage.values, incoming);
  }
  std::string summary(const StageValues&, const VideoDescription&) const override { return ""; }
  std::vector<StageNote> notes(const StageValues&, const VideoDescription&, Rational) const override { return {}; }
};

}  // namespace

Stage through(InBetween inBetween, PastTheEnds past) {
  static const Through kind;
  Stage stage;
  stage.kind = &kind;
  stage.values = {static_cast<std::size_t>(past), static_cast<std::size_t>(inBetween)};
  return stage;
}

}  // namespace molten
