#pragma once
// Clips made for tests: each frame carries its number, or noise that tells any two frames apart.

#include <gtest/gtest.h>

#include <filesystem>
#include <functional>
#include <random>
#include <span>
#include <string>
#include <vector>

#include "core/engine/source_material.h"
#include "core/media/footage.h"

namespace molten::test {

/// A folder of its own that goes with the test.
class TempFolder {
 public:
  TempFolder();
  ~TempFolder();
  std::string operator/(const std::string& name) const { return (path_ / name).string(); }
  const std::filesystem::path& path() const { return path_; }
  /// Names of everything in it, hidden files too.
  std::vector<std::string> names() const;

 private:
  std::filesystem::path path_;
};

void writeFile(const std::string& path, std::span<const std::uint8_t> bytes);
void writeFile(const std::string& path, const std::string& text);

/// What a command wrote and how it ended.
struct CommandResult {
  int exitCode = -1;
  std::string out, err;
};
CommandResult runCommand(const std::string& command);

/// How a program ended that was called with these words, and the most memory that it held.
struct Measured {
  int exitCode = -1;
  std::size_t mostBytes = 0;
};
Measured runMeasured(const std::vector<std::string>& words);

/// Planar 4:2:0 frames whose luma shows the frame's number as 16 bright or dark blocks.
/// Encoded by `ffmpeg <arguments> <path>`; the test fails if that fails.
void makeNumberedClip(const std::string& path, int frames, Size size, const std::string& arguments);
/// The number that a picture's first plane shows, read in the middle of each block.
int numberShown(const Picture& picture);

/// 8-bit planar noise, different in every frame, written without loss.
void makeNoiseClip(const std::string& path, int frames, Size size, const std::string& pixelFormat,
                   const std::string& arguments = "");

/// 8-bit gray of full range, written without loss: what `sample` gives for a frame and a place.
void makeGrayClip(const std::string& path, int frames, Size size,
                  const std::function<int(int frame, int x, int y)>& sample);

std::shared_ptr<const Footage> openFootage(const std::string& path);
/// Of fields that read this footage; a budget of its own that is ample.
std::shared_ptr<Material> fieldMaterial(const std::shared_ptr<const Footage>& footage, int threads);
std::shared_ptr<SourceMaterial> sourceMaterial(const std::shared_ptr<const Footage>& footage, int threads);
/// All frames of a clip in order.
std::vector<Picture> readAll(const Footage& footage);
/// True if two pictures have the same shape and samples; says where they differ otherwise.
::testing::AssertionResult samePicture(const Picture& a, const Picture& b);
/// Every sample anything its format can hold (floats 0…1).
Picture randomPicture(const PictureShape& shape, std::mt19937& random);
/// One sample as a number.
unsigned sampleAt(const Picture& picture, int plane, int x, int y);

}  // namespace molten::test
