#include "app/reel/near_cuts.h"

#include <algorithm>

namespace molten {
namespace {

/// Pictures to either side of a cut among which a better one is looked for.
constexpr std::int64_t nearBy = 10;

}  // namespace

NearCuts::NearCuts(Session& session, QObject* parent)
    : QObject(parent),
      session_(session),
      newest_(
          [](const Question& asked, const std::stop_token& stop) {
            const auto out = motionsAround(asked.out, false, nearBy, stop);
            if (!out) return Answer{asked, out.error()};
            const auto in = motionsAround(asked.in, true, nearBy, stop);
            return in ? Answer{asked, nearCuts(asked.out, *out, asked.in, *in)} : Answer{asked, in.error()};
          },
          [this](const Answer& answer) {
            looking_.reset();
            known_ = answer;
            emit arrived();
          }) {}

/// What the cut is made of, but not how it is run through.
bool NearCuts::isNow(const Question& question) const {
  const Project& now = session_.whole();
  const std::size_t shot = question.shot;
  if (shot + 1 >= shotCount(now) || shot + 1 >= shotCount(question.asked)) return false;
  const auto same = [&](std::size_t which) {
    const ShotPlace &a = placeOf(now, which), &b = placeOf(question.asked, which);
    return sourceOf(now, which) == sourceOf(question.asked, which) && a.from == b.from && a.to == b.to && shotOf(now, which).chain == shotOf(question.asked, which).chain;
  };
  return same(shot) && same(shot + 1);
}

std::optional<CutSide> NearCuts::sideOf(std::size_t number, bool end) const {
  const Shot shot = shotOf(session_.whole(), number);
  const auto footage = session_.reel().footageOf(shot.source);
  if (!footage || !session_.reel().played()) return std::nullopt;
  const Rational rate = session_.reel().played()->row->rate, whole = session_.reel().lengthOf(number);
  const Rational from = shot.place.from.value_or(0), to = std::min(shot.place.to.value_or(whole), whole);
  CutSide side{footage, shot.source.between, shot.chain, rate, 0, 0, std::max<std::int64_t>(0, (whole * rate).floor() - 1)};
  side.picture = std::clamp<std::int64_t>(end ? (to * rate).floor() - 1 : (from * rate).floor(), 0, side.most);
  // It goes on lasting a few pictures.
  constexpr std::int64_t fewest = 3;
  if (end)
    side.least = std::min(side.picture, (from * rate).floor() + fewest);
  else
    side.most = std::max(side.picture, (to * rate).floor() - 1 - fewest);
  return side;
}

bool NearCuts::look(std::size_t shot) {
  if (found(shot) || (looking_ && looking_->shot == shot && isNow(*looking_))) return true;
  if (shot + 1 >= shotCount(session_.whole())) return false;
  const auto out = sideOf(shot, true), in = sideOf(shot + 1, false);
  if (!out || !in) return false;
  looking_ = Question{shot, session_.whole(), *out, *in};
  newest_.ask(*looking_);
  return true;
}

const CutChoice* NearCuts::found(std::size_t shot) const {
  return known_ && known_->asked.shot == shot && known_->choice && isNow(known_->asked) ? &*known_->choice : nullptr;
}

std::string NearCuts::trouble(std::size_t shot) const {
  return known_ && known_->asked.shot == shot && !known_->choice && isNow(known_->asked) ? known_->choice.error().message : std::string();
}

std::optional<Edit> NearCuts::edit(std::size_t shot) const {
  const CutChoice* const choice = found(shot);
  if (!choice || (choice->best.out == 0 && choice->best.in == 0)) return std::nullopt;
  const auto &out = known_->asked.out, &in = known_->asked.in;
  Project project = session_.whole();
  if (choice->best.out != 0) project = trimShot(project, shot, placeOf(project, shot).from, Rational(out.picture + choice->best.out + 1) / out.rate).after;
  if (choice->best.in != 0) project = trimShot(project, shot + 1, Rational(in.picture + choice->best.in) / in.rate, placeOf(project, shot + 1).to).after;
  return Edit{"Cut where the motion agrees", project, {}};
}

}  // namespace molten
