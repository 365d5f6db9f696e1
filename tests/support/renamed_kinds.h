#pragma once
// The program's kinds of stages under other names: ids, labels, cards, choices, actions.

#include <memory>
#include <vector>

#include "core/stages/stage.h"

namespace molten::test {

/// Another kind that does the same under names of its own.
class RenamedKind : public StageKind {
 public:
  RenamedKind(const StageKind& own, int number);
  const StageKind& own() const { return own_; }
  std::string newCard(const std::string& card) const { return "Card of " + std::to_string(card.size()) + card.substr(0, 1); }

  const StageDescription& description() const override { return described_; }
  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return own_.timeMap(stage, incoming, around);
  }
  std::string summary(const StageValues& values, const VideoDescription& incoming) const override {
    return own_.summary(values, incoming);
  }
  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& incoming,
                               Rational outputRate) const override;
  std::optional<Stage> contrast(const Stage& stage) const override { return own_.contrast(stage); }
  std::optional<Round> round(const StageValues& values, const VideoDescription& incoming) const override {
    return own_.round(values, incoming);
  }
  StageValues withRound(StageValues values, const Round& round, const VideoDescription& incoming) const override {
    return own_.withRound(std::move(values), round, incoming);
  }
  double scatter(const StageValues& values) const override { return own_.scatter(values); }
  Stage withoutScatter(const Stage& stage) const override { return own_.withoutScatter(stage); }
  const PaceParameters* paceHandles() const override { return own_.paceHandles(); }
  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& incoming) const override {
    return own_.handles(values, incoming);
  }
  std::vector<FieldLine> lines(const StageValues& values, const VideoDescription& incoming) const override {
    return own_.lines(values, incoming);
  }
  StageValues withHandle(StageValues values, std::size_t handle, Place place,
                         const VideoDescription& incoming) const override {
    return own_.withHandle(std::move(values), handle, place, incoming);
  }
  Stage acted(const Stage& stage, std::string_view action, const VideoDescription& incoming) const override;
  StageValues picked(StageValues values, std::string_view action, const PickedPlace& place,
                     const VideoDescription& incoming) const override;
  StageValues pulled(StageValues values, double at, double by) const override {
    return own_.pulled(std::move(values), at, by);
  }

 private:
  const StageKind& own_;
  StageDescription described_;
};

/// As long as it lives, all kinds have other names.
class RenamedKinds {
 public:
  RenamedKinds();
  ~RenamedKinds() { offerStageKinds({}); }
  /// What one of the program's kinds is called now.
  const RenamedKind& of(const StageKind& own) const;

 private:
  std::vector<std::unique_ptr<RenamedKind>> kinds_;
  std::vector<const StageKind*> offered_;
};

}  // namespace molten::test
