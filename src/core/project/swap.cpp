#include "core/project/swap.h"


#include "core/media/av_handles.h"
#include "core/number_text.h"
#include "core/project/piece.h"
#include "core/project/played.h"

namespace molten {
namespace {

std::string secondsText(const Rational& seconds) {
  return fixedText(seconds.toDouble(), 2) + " s";
}

std::string sizeText(const VideoDescription& video) {
  return std::to_string(video.size.width) + " × " + std::to_string(video.size.height);
}

double aspectOf(const VideoDescription& video) {
  return video.pixelAspect.toDouble() * video.size.width / video.size.height;
}

}  // namespace

std::size_t shotsOf(const Project& project, const std::string& path) {
  std::size_t count = 0;
  for (std::size_t i = 0; i < shotCount(project); ++i) count += sourceOf(project, i).path == path;
  return count;
}

Edit swapFootage(const Project& before, const std::string& was, const std::string& path) {
  Edit edit{"Replace footage with " + fileName(path), before, {}};
  const auto swap = [&](Source& source) {
    if (source.path != was) return;
    source.path = path;
    source.rate.reset();
  };
  swap(edit.after.source);
  for (Shot& shot : edit.after.more) swap(shot.source);
  if (const std::size_t shots = shotsOf(before, was); shots > 1) edit.name += " in " + std::to_string(shots) + " shots";
  return edit;
}

Project withClip(const Project& project, const std::string& path) {
  return swapFootage(project, project.source.path, path).after;
}

std::vector<Misfit> misfits(const Project& now, std::size_t shot, const VideoDescription& was, const VideoDescription& is) {
  std::vector<Misfit> all;
  const bool reel = isReel(now);
  const ShotPlace& place = placeOf(now, shot);
  const Chain chain = shotOf(now, shot).chain;
  const std::string title = shotTitle(now, shot);
  const VideoDescription before = videoAt(chain, chain.size(), was), after = videoAt(chain, chain.size(), is);
  if (reel && !after.endless) {
    const Rational lasts = after.seconds();
    if (place.from && *place.from >= lasts) {
      Edit remedy = trimShot(now, shot, std::nullopt, std::nullopt);
      remedy.name = "Take off the ends of " + title;
      all.push_back({title + " begins at " + secondsText(*place.from) + ", and all that there is now lasts " + secondsText(lasts) + ".", remedy});
    } else if (place.to && *place.to > lasts) {
      Edit remedy = trimShot(now, shot, place.from, std::nullopt);
      remedy.name = "End " + title + " where its footage ends";
      all.push_back({title + " is shown to " + secondsText(*place.to) + ", and what there is now ends at " + secondsText(lasts) + ".", remedy});
    }
  }
  if (std::abs(aspectOf(after) / aspectOf(before) - 1) > 0.01) {
    Misfit one{title + " has another shape: " + sizeText(is) + " in place of " + sizeText(was) + ".", {}};
    if (reel && !place.fills) {
      one.remedy = fillShot(now, shot, true);
      one.remedy->name = "Cut " + title + " to the reel's shape";
    }
    all.push_back(std::move(one));
  }
  if (!(is.rate == was.rate)) {
    Misfit one{title + " has " + rateText(is.rate) + " pictures a second in place of " + rateText(was.rate) + ".", {}};
    // The piece went by its footage.
    if (!reel && !now.output.rate && after.rate == is.rate) {
      // In and out are the frames that they were: at the old rate they are where they were.
      one.remedy = Edit{"Stay at " + rateText(was.rate) + " fps", now, {}};
      one.remedy->after.output.rate = was.rate;
      if (now.in || now.out)
        one.says += " In and out are the frames " + std::to_string(now.in.value_or(0)) + " to " +
                    (now.out ? std::to_string(*now.out) : std::string("the last")) + " still, which are other moments now.";
    }
    all.push_back(std::move(one));
  }
  if (!reel) {
    const auto whole = ChainReading(chain, is);
    const Piece piece = pieceOf(whole.outgoing(), now.output);
    if (const std::int64_t last = std::max(now.in.value_or(0), now.out.value_or(0)); last >= piece.length) {
      Edit remedy{"Take off in and out", now, {}};
      if (now.in.value_or(0) < piece.length) {
        remedy.name = "End where the result ends";
        remedy.after.out.reset();
      } else {
        remedy.after.in.reset(), remedy.after.out.reset();
      }
      all.push_back({"In and out are the frames " + std::to_string(now.in.value_or(0)) + " to " + std::to_string(last) + ", and the result has " +
                         std::to_string(piece.length) + " now.", remedy});
    }
    if (!outsideRuns(whole, piece, spanOf(now, piece.length)).empty()) {
      const auto wasWhole = ChainReading(chain, was);
      const Piece wasPiece = pieceOf(wasWhole.outgoing(), now.output);
      if (outsideRuns(wasWhole, wasPiece, {0, wasPiece.length - 1}).empty())
        all.push_back({"The chain reads past the end of the footage now.", trimToFootage(now, is)});
    }
  }
  return all;
}

}  // namespace molten
