#include "core/stages/cut.h"

#include "core/stages/common_parameters.h"
#include "core/stages/parameter_list.h"

namespace molten {
namespace {

struct Parameters {
  ParameterList list;
  ParameterHandle<double> from = list.number({"from", "From", "Cut", "The first moment."}, secondsNumber(0, 1e9, 0, 0.1, 60));
  ParameterHandle<double> length =
      list.number({"length", "Length", "Cut", "How long it lasts."}, secondsNumber(0, 1e9, 1, 0.1, 60));
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

VideoDescription cutOf(const StageValues& values, const VideoDescription& in) {
  VideoDescription out = in;
  out.setLength(Rational::near(of().length(values)) * in.rate);
  out.endless = false;
  const double first = of().from(values) * in.rate.toDouble();
  if (in.course) out.course = courseAfter(in.course, {[first](double position) { return position + first; }});
  return out;
}

class CutMap : public MovingMap {
 public:
  CutMap(const StageValues& values, const VideoDescription& in)
      : MovingMap(cutOf(values, in)), first_(Rational::near(of().from(values)) * in.rate) {}
  Moment readAt(const Moment& moment) const override { return Moment::ofPictures(moment.exact() + first_, moment.off); }
  double positionAt(double position) const override { return position + first_.toDouble(); }
  Reach readsBetween(double from, double to) const override { return {positionAt(from), positionAt(to)}; }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }

 private:
  Rational first_;
};

class Cut : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {"cut", "Cut", "A stretch of what enters.", of().list.described(), {}};
    return described;
  }
  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& in, const Surroundings&) const override {
    return std::make_unique<CutMap>(stage.values, in);
  }
  std::string summary(const StageValues& values, const VideoDescription&) const override {
    return secondsText(of().length(values));
  }
  std::vector<StageNote> notes(const StageValues&, const VideoDescription&, Rational) const override { return {}; }
};

}  // namespace

Stage cutOut(Rational from, Rational length) {
  static const Cut kind;
  Stage stage = newStage(kind);
  of().from.set(stage.values, from.toDouble());
  of().length.set(stage.values, length.toDouble());
  return stage;
}

}  // namespace molten
