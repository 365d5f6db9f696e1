#include "support/toy_stage.h"

#include "core/stages/common_parameters.h"

namespace molten::test {
namespace {

struct Parameters {
  ParameterList list;
  ParameterHandle<double> lean =
      list.number({"lean", "Lean", "Slope", "How much later the lowest row reads than the highest.", true, {},
                   Figure::Steps},
                  secondsNumber(-60, 60, 1, 0.1, 5));
  ParameterHandle<double> pivot = list.number({"pivot", "Pivot", "Slope", "The row that reads the present moment."},
                                              {Unit::Percent, 0, 1, 0, 0.01, 1, 1, Tense::None});
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

class Slope : public Displacement {
 public:
  Slope(double pictures, double pivot, double height) : pictures_(pictures), pivot_(pivot), height_(height) {}
  void row(const PlaneSites& sites, int row, std::span<double> out) const override {
    std::fill(out.begin(), out.end(), ((sites.y0 + row * sites.stepY) / height_ - pivot_) * pictures_);
  }

 private:
  double pictures_, pivot_, height_;
};

class LeanMap : public DisplacingMap {
 public:
  LeanMap(const Stage& stage, const VideoDescription& in) : DisplacingMap(in), stage_(stage) {}
  std::shared_ptr<const Displacement> displacement(const Moment& moment) const override {
    const StageValues values = stage_.valuesAt(moment.seconds(outgoing().rate));
    return std::make_shared<Slope>(of().lean(values) * outgoing().rate.toDouble(), of().pivot(values),
                                   outgoing().size.height);
  }
  bool steady() const override { return stage_.keys.empty(); }
  Reach reach() const override {
    const double most = std::abs(of().lean(stage_.widestValues())) * outgoing().rate.toDouble();
    return {-most, most};
  }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }

 private:
  Stage stage_;
};

thread_local int walks = 0;

class Lean : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "lean",
        "Lean",
        "The lower a row, the later it reads.",
        of().list.described(),
        {{"pivot-here", "Pivot here", "Slope", "Click the row that is to read the present moment."}}};
    return described;
  }
  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    ++walks;
    return std::make_unique<LeanMap>(stage, incoming);
  }
  std::string summary(const StageValues& values, const VideoDescription&) const override {
    return of().lean(values) < 0 ? "leans back" : "leans ahead";
  }
  std::vector<StageNote> notes(const StageValues&, const VideoDescription&, Rational) const override { return {}; }
  StageValues picked(StageValues values, std::string_view, const PickedPlace& picked,
                     const VideoDescription&) const override {
    values[of().pivot.index()] = picked.place.y;
    return values;
  }
};

}  // namespace

const StageKind& lean() {
  static const Lean kind;
  return kind;
}

int walksOfLean() {
  return walks;
}

WithLean::WithLean() {
  offered_.assign(stageKinds().begin(), stageKinds().end());
  offered_.push_back(&lean());
  offerStageKinds(offered_);
}

}  // namespace molten::test
