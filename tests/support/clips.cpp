#include "support/clips.h"

extern "C" {
#include <libavutil/log.h>
#include <libavutil/pixdesc.h>
}

#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstring>
#include <fstream>
#include <iterator>
#include <random>

#include "core/media/picture_writer.h"

namespace molten::test {
namespace fs = std::filesystem;
namespace {

// What libav says about clips that are broken on purpose would drown the tests' own words.
[[maybe_unused]] const bool quiet = (av_log_set_level(AV_LOG_QUIET), true);

std::string contents(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

void encode(const std::string& raw, const std::string& path, Size size, const std::string& pixelFormat,
            const std::string& arguments) {
  const auto result =
      runCommand("ffmpeg -v error -y -f rawvideo -pix_fmt " + pixelFormat + " -s " + std::to_string(size.width) + "x" +
                 std::to_string(size.height) + " -r 30 -i '" + raw + "' " + arguments + " '" + path + "'");
  ASSERT_EQ(result.exitCode, 0) << result.err;
}

}  // namespace

TempFolder::TempFolder() {
  std::string name = (fs::temp_directory_path() / "molten-test-XXXXXX").string();
  path_ = mkdtemp(name.data());
}

TempFolder::~TempFolder() {
  std::error_code error;
  fs::permissions(path_, fs::perms::owner_all, fs::perm_options::add, error);
  fs::remove_all(path_, error);
}

std::vector<std::string> TempFolder::names() const {
  std::vector<std::string> names;
  for (const auto& entry : fs::directory_iterator(path_)) names.push_back(entry.path().filename().string());
  std::sort(names.begin(), names.end());
  return names;
}

Measured runMeasured(const std::vector<std::string>& words) {
  std::vector<char*> arguments;
  for (const auto& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  pid_t child = 0;
  if (posix_spawn(&child, arguments[0], nullptr, nullptr, arguments.data(), environ) != 0) return {};
  int status = 0;
  rusage usage{};
  wait4(child, &status, 0, &usage);
  return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, static_cast<std::size_t>(usage.ru_maxrss) * 1024};
}

CommandResult runCommand(const std::string& command) {
  const TempFolder folder;
  const int status =
      std::system(("( " + command + " ) >'" + folder / "out" + "' 2>'" + folder / "err" + "' </dev/null").c_str());
  return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), contents(folder / "out"),
          contents(folder / "err")};
}

void makeNumberedClip(const std::string& path, int frames, Size size, const std::string& arguments) {
  const TempFolder folder;
  {
    std::ofstream raw(folder / "raw", std::ios::binary);
    std::vector<char> luma(static_cast<std::size_t>(size.width * size.height));
    const std::vector<char> chroma(static_cast<std::size_t>((size.width + 1) / 2 * ((size.height + 1) / 2) * 2),
                                   char(128));
    for (int n = 0; n < frames; ++n) {
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
          const int bit = (y * 4 / size.height) * 4 + x * 4 / size.width;
          luma[static_cast<std::size_t>(y * size.width + x)] = char((n >> bit) & 1 ? 220 : 30);
        }
      raw.write(luma.data(), static_cast<std::streamsize>(luma.size()));
      raw.write(chroma.data(), static_cast<std::streamsize>(chroma.size()));
    }
  }
  encode(folder / "raw", path, size, "yuv420p", arguments);
}

int numberShown(const Picture& picture) {
  const int width = picture.planeWidth(0), height = picture.planeHeight(0);
  const unsigned middle = 1u << (std::min(picture.format().bits, 16) - 1);
  int number = 0;
  for (int bit = 0; bit < 16; ++bit) {
    const int x = (bit % 4 * 2 + 1) * width / 8, y = (bit / 4 * 2 + 1) * height / 8;
    if (sampleAt(picture, 0, x, y) > middle) number |= 1 << bit;
  }
  return number;
}

void makeNoiseClip(const std::string& path, int frames, Size size, const std::string& pixelFormat,
                   const std::string& arguments) {
  const TempFolder folder;
  const PictureFormat format = exactFormat(av_get_pix_fmt(pixelFormat.c_str()));
  {
    std::ofstream raw(folder / "raw", std::ios::binary);
    std::mt19937 random(7);
    std::vector<std::uint16_t> row;
    for (int n = 0; n < frames; ++n)
      for (int p = 0; p < format.planes(); ++p)
        for (int y = 0; y < format.planeHeight(p, size.height); ++y)
          for (int x = 0; x < format.planeWidth(p, size.width); ++x) {
            const auto sample = static_cast<std::uint16_t>(random() & ((1u << format.bits) - 1));
            raw.write(reinterpret_cast<const char*>(&sample), format.bytesPerSample());
          }
  }
  encode(folder / "raw", path, size, pixelFormat, arguments.empty() ? "-c:v ffv1" : arguments);
}

void makeGrayClip(const std::string& path, int frames, Size size,
                  const std::function<int(int frame, int x, int y)>& sample) {
  OutputSpec spec;
  spec.path = path;
  spec.shape.format = {ColourModel::Gray, 8, 0, 0, false, false};
  spec.shape.size = size;
  spec.shape.colour.range = AVCOL_RANGE_JPEG;
  auto writer = PictureWriter::open(spec);
  ASSERT_TRUE(writer) << writer.error().message;
  for (int n = 0; n < frames; ++n) {
    Picture picture(spec.shape);
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) picture.writableRow(0, y)[x] = static_cast<std::uint8_t>(sample(n, x, y));
    ASSERT_TRUE((*writer)->write(picture));
  }
  ASSERT_TRUE((*writer)->finish());
}

void writeFile(const std::string& path, std::span<const std::uint8_t> bytes) {
  std::ofstream file(path, std::ios::binary);
  file.write(reinterpret_cast<const char*>(bytes.data()), static_cast<std::streamsize>(bytes.size()));
  EXPECT_TRUE(file.flush()) << path;
}
void writeFile(const std::string& path, const std::string& text) {
  writeFile(path, {reinterpret_cast<const std::uint8_t*>(text.data()), text.size()});
}

std::shared_ptr<const Footage> openFootage(const std::string& path) {
  auto footage = Footage::open(path, {}, {}, {});
  EXPECT_TRUE(footage) << (footage ? "" : footage.error().message);
  return footage ? *footage : nullptr;
}

std::shared_ptr<SourceMaterial> sourceMaterial(const std::shared_ptr<const Footage>& footage, int threads) {
  auto sources = std::make_shared<Sources>(footage, std::make_shared<MemoryBudget>(std::size_t(1) << 28), threads);
  return std::make_shared<SourceMaterial>(std::move(sources), threads);
}

std::shared_ptr<Material> fieldMaterial(const std::shared_ptr<const Footage>& footage, int threads) {
  return std::make_shared<MaterialAt>(sourceMaterial(footage, threads), PlanSettings{});
}

std::vector<Picture> readAll(const Footage& footage) {
  std::vector<Picture> all;
  auto reader = footage.newReader(1);
  for (std::int32_t n = 0; n < footage.clock().frameCount(); ++n) {
    auto picture = (*reader)->read(n, {}, {});
    EXPECT_TRUE(picture);
    if (picture) all.push_back(*picture);
  }
  return all;
}

::testing::AssertionResult samePicture(const Picture& a, const Picture& b) {
  if (!(a.format() == b.format()) || !(a.shape().size == b.shape().size))
    return ::testing::AssertionFailure() << "the shapes differ";
  for (int p = 0; p < a.format().planes(); ++p)
    for (int y = 0; y < a.planeHeight(p); ++y)
      if (std::memcmp(a.row(p, y), b.row(p, y), a.rowBytes(p)) != 0)
        return ::testing::AssertionFailure() << "plane " << p << " differs in row " << y;
  return ::testing::AssertionSuccess();
}

Picture randomPicture(const PictureShape& shape, std::mt19937& random) {
  Picture picture(shape);
  for (int p = 0; p < shape.format.planes(); ++p)
    for (int y = 0; y < picture.planeHeight(p); ++y)
      for (int x = 0; x < picture.planeWidth(p); ++x) {
        std::uint8_t* const row = picture.writableRow(p, y);
        if (shape.format.floating)
          reinterpret_cast<float*>(row)[x] = static_cast<float>(random() % 4096) / 4095;
        else if (shape.format.bytesPerSample() == 2)
          reinterpret_cast<std::uint16_t*>(row)[x] = static_cast<std::uint16_t>(random() % (1u << shape.format.bits));
        else
          row[x] = static_cast<std::uint8_t>(random());
      }
  return picture;
}

unsigned sampleAt(const Picture& picture, int plane, int x, int y) {
  const auto* row = picture.row(plane, y);
  return picture.format().bytesPerSample() == 2 ? reinterpret_cast<const std::uint16_t*>(row)[x] : row[x];
}

}  // namespace molten::test
