#pragma once
// Finished footage: video files and numbered stills.

#include <cstdint>
#include <functional>
#include <memory>
#include <stop_token>
#include <string>
#include <vector>

#include "core/files/safe_file.h"
#include "core/media/sound_track.h"
#include "core/picture/picture.h"
#include "core/result.h"
#include "core/time/rational.h"

namespace molten {

/// One way of writing pictures. Ids are those of `--codec`.
struct CodecDescription {
  std::string id;                       ///< `h264`
  std::string label;                    ///< `H.264`
  std::vector<std::string> extensions;  ///< `.mp4`; the first is the usual one
  bool stills;                          ///< a file a picture
  int qualityDefault;                   ///< −1: quality does not apply
  int qualityLeast, qualityMost;
  std::string qualityHelp;
  bool readable = true;  ///< what is written can be footage here
};

const std::vector<CodecDescription>& codecs();

struct OutputSpec {
  std::string path;        ///< for stills with a number pattern: name-%05d.png
  std::string codec;       ///< an id, or empty: what the path's ending asks for
  int quality = -1;        ///< −1: the codec's default
  PictureShape shape;      ///< of the pictures that will be written
  Rational rate = 25;      ///< pictures a second
  std::int64_t first = 0;  ///< number of the first still
  bool single = false;     ///< one still under just this name, without a number
  int threads = 2;         ///< of the encoder
  /// Written as time passes: under its own name from the beginning, and to be read, whatever happens, up to the last half
  /// second. MP4 or MOV with H.264.
  bool growing = false;
  bool sound = false;      ///< sound is written beside the pictures
  std::string soundOf = {};  ///< a file whose sound is copied instead, as it is
  Rational soundFrom = 0;    ///< from so many seconds after its beginning on
};

/// What a spec comes to: for the render dialog, the notes after a render, and the writers.
struct OutputPlan {
  const CodecDescription* codec = nullptr;
  AVPixelFormat format = AV_PIX_FMT_NONE;
  Size size;
  bool fullRange = false;
  int quality = -1;
  bool secondPass = false;         ///< all pictures are gone through once more when the last is there
  bool interdependent = false;     ///< pictures are told by what differs from others
  int closedGroup = 24;            ///< pictures after which nothing that is written refers to what was before; pieces end there
  std::string formatText;          ///< `4:2:0 8-bit`
  std::string soundText;           ///< `AAC`; empty: no sound
  std::vector<std::string> notes;  ///< sentences: what the kind of file cannot hold
};
Result<OutputPlan> planOutput(const OutputSpec& spec);
/// Which codec a name's ending, an id (empty: the ending's usual one) and a quality (below 0: the usual one) ask for. Fails with a
/// sentence where they ask for none; planOutput() fails with the same.
Result<const CodecDescription*> codecAsked(const std::string& path, const std::string& codec, int quality);

/// How a second pass goes, and what calls it off.
struct FinishWatch {
  std::function<void(double part)> told = {};  ///< 0…1
  std::stop_token stop = {};
};

/// Writes pictures in order. Until finish() succeeds nothing stands under the final name; a writer that is
/// destroyed before leaves nothing behind.
class PictureWriter {
 public:
  virtual ~PictureWriter() = default;
  virtual Status write(const Picture& picture) = 0;
  /// How many pictures have come out of the encoder, which may look ahead.
  virtual std::int64_t encoded() const = 0;
  /// Of a growing file: the last picture stands for so many more.
  virtual void stand(std::int64_t /*pictures*/) {}
  /// Sound that follows what was written so far; where the spec asks for it, and a picture has been written.
  virtual Status write(const Sound&) { return {}; }
  /// How the sound goes; nullptr: none is written.
  virtual const SoundTrack* sound() const { return nullptr; }
  /// Gives the result its name, or names, together with files that belong to it: all of them or none.
  virtual Status finish(std::vector<SafeFile> beside = {}, const FinishWatch& watch = {}) = 0;

  static Result<std::unique_ptr<PictureWriter>> open(const OutputSpec& spec);
  /// Into a piece of the output: its pictures from number `first` on (a multiple of the plan's closed group), without sound. `path`:
  /// where the piece goes, under that name once it is whole. `key`: what it is a piece of.
  static Result<std::unique_ptr<PictureWriter>> openPiece(const OutputSpec& spec, std::int64_t first, const std::string& path,
                                                          const std::string& key);
};

/// Pieces put one after another, without encoding again: to the byte what a PictureWriter makes of their pictures.
class PieceJoiner {
 public:
  /// `key`: what they have to be pieces of.
  static Result<std::unique_ptr<PieceJoiner>> open(const OutputSpec& spec, const std::string& key);
  ~PieceJoiner();
  PieceJoiner(const PieceJoiner&) = delete;
  PieceJoiner& operator=(const PieceJoiner&) = delete;

  /// The piece that follows, of so many pictures. Fails if it is not whole, or not one of these. `along` is told after each
  /// picture how many there are by now: sound may be written then.
  Status add(const std::string& path, std::int64_t pictures, const std::function<Status(std::int64_t)>& along);
  Status write(const Sound& sound);
  const SoundTrack* sound() const;
  Status finish(const FinishWatch& watch = {});

 private:
  struct Parts;
  explicit PieceJoiner(std::unique_ptr<Parts> parts);
  std::unique_ptr<Parts> parts_;
};

/// The path of still n: the pattern's %d filled in.
std::string stillPath(const std::string& pattern, std::int64_t n);
/// The path of the file that the k-th picture goes into.
std::string outputFile(const OutputSpec& spec, std::int64_t k);

/// False of a kind of file that is written, and not read.
bool canBeFootage(const std::string& path);

/// One picture as a still's bytes, by the kind that the spec's path and codec say.
Result<std::vector<std::uint8_t>> stillBytes(const OutputSpec& spec, const Picture& picture);

}  // namespace molten
