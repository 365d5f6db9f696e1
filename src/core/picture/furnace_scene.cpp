#include "core/picture/furnace_scene.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numbers>

namespace molten {
namespace {

constexpr int flickers = 6;
constexpr double turnOfHand = 10, walk = 5.2, stride = 0.52;  // seconds: round the clock, across the room; picture heights a step

std::uint8_t sample(double value) {
  return static_cast<std::uint8_t>(std::clamp(value + 0.5, 16.0, 240.0));
}

/// Y Cb Cr of BT.709, limited, of R G B in 0…1.
struct Ycc {
  double y, cb, cr;
};
Ycc ycc(double r, double g, double b) {
  const double y = 0.2126 * r + 0.7152 * g + 0.0722 * b;
  return {16 + 219 * y, 128 + 224 * (b - y) / 1.8556, 128 + 224 * (r - y) / 1.5748};
}

}  // namespace

FurnaceScene::FurnaceScene(Size size) {
  shape_.size = size;
  shape_.format = {ColourModel::Yuv, 8, 1, 1};
  shape_.colour = {AVCOL_RANGE_MPEG, AVCOL_SPC_BT709, AVCOL_PRI_BT709, AVCOL_TRC_BT709, AVCHROMA_LOC_LEFT};
  covered_.assign(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height), 0);
  left_ = size.width, top_ = size.height, right_ = bottom_ = 0;
  paintWall();
}

void FurnaceScene::paintWall() {
  const double h = shape_.size.height, wide = shape_.size.width / h;
  const auto colourAt = [&](double px, double py, double fire) {
    const double x = px / h - wide / 2, y = py / h;
    // The furnace's mouth is an arch; its light falls off over wall and floor.
    const double archX = x / 0.30, archY = (y - 0.50) / (y < 0.50 ? 0.26 : 0.24);
    const double inside = y < 0.50 ? std::hypot(archX, archY) : std::max(std::abs(archX), archY);
    const double edge = std::clamp((1 - inside) * 14 + 0.5, 0.0, 1.0);
    const double away = std::hypot(x, (y - 0.52) * 1.2);
    const double glow = fire * 0.62 * std::exp(-away * 2.6);
    const bool floor = y > 0.80;
    const bool joint = floor ? std::fmod(std::abs(x) / (0.4 + (y - 0.8) * 2) * 6, 1.0) < 0.06
                             : std::fmod(y * 14, 1.0) < 0.07 || std::fmod((x + (static_cast<int>(y * 14) % 2) * 0.09 + 10) / 0.18, 1.0) < 0.035;
    const double stone = (floor ? 0.075 : 0.055) * (joint ? 0.6 : 1);
    const double lit = (joint ? 0.55 : 1) * glow;
    const double heat = 0.78 + 0.22 * fire * std::exp(-away * away * 9);
    const double r = stone + lit, g = stone * 0.95 + lit * 0.46, b = stone * 0.95 + lit * 0.13;
    return ycc(r + (heat - r) * edge, g + (heat * 0.62 - g) * edge, b + (heat * 0.20 - b) * edge);
  };
  for (int f = 0; f < flickers; ++f) {
    Picture wall(shape_);
    const double fire = 0.9 + 0.1 * std::sin(f * 2 * std::numbers::pi / flickers);
    for (int y = 0; y < wall.planeHeight(0); ++y)
      for (int x = 0; x < wall.planeWidth(0); ++x) wall.writableRow(0, y)[x] = sample(colourAt(x, y, fire).y);
    for (int y = 0; y < wall.planeHeight(1); ++y)
      for (int x = 0; x < wall.planeWidth(1); ++x) {
        const Ycc colour = colourAt(2 * x, 2 * y + 0.5, fire);
        wall.writableRow(1, y)[x] = sample(colour.cb);
        wall.writableRow(2, y)[x] = sample(colour.cr);
      }
    walls_.push_back(std::move(wall));
  }
}

void FurnaceScene::bar(Point a, Point b, double from, double to) {
  const double h = shape_.size.height;
  const double ax = a.x * h, ay = a.y * h, bx = b.x * h, by = b.y * h, most = std::max(from, to) * h + 1;
  const int x0 = std::max(0, static_cast<int>(std::min(ax, bx) - most)), x1 = std::min(shape_.size.width, static_cast<int>(std::max(ax, bx) + most) + 1);
  const int y0 = std::max(0, static_cast<int>(std::min(ay, by) - most)), y1 = std::min(shape_.size.height, static_cast<int>(std::max(ay, by) + most) + 1);
  if (x0 >= x1 || y0 >= y1) return;
  left_ = std::min(left_, x0), right_ = std::max(right_, x1), top_ = std::min(top_, y0), bottom_ = std::max(bottom_, y1);
  const double dx = bx - ax, dy = by - ay, length = dx * dx + dy * dy;
  for (int y = y0; y < y1; ++y) {
    std::uint8_t* row = covered_.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(shape_.size.width);
    for (int x = x0; x < x1; ++x) {
      const double px = x + 0.5 - ax, py = y + 0.5 - ay;
      const double along = length > 0 ? std::clamp((px * dx + py * dy) / length, 0.0, 1.0) : 0;
      const double away = std::sqrt((px - along * dx) * (px - along * dx) + (py - along * dy) * (py - along * dy));
      const double in = std::clamp((from + (to - from) * along) * h - away + 0.5, 0.0, 1.0);
      row[x] = std::max(row[x], static_cast<std::uint8_t>(in * 255));
    }
  }
}

void FurnaceScene::person(double seconds) {
  const double wide = static_cast<double>(shape_.size.width) / shape_.size.height;
  // To and fro, turning beyond both edges.
  const double trip = seconds / walk, there = trip - 2 * std::floor(trip / 2);
  const double way = there < 1 ? there : 2 - there, to = there < 1 ? 1 : -1;
  const double x = wide * 0.08 + way * wide * 0.84, step = way * wide * 0.84 / stride * std::numbers::pi;
  const double ground = 0.95, lift = 0.012 * std::abs(std::cos(step)), hip = ground - 0.36 + lift, shoulder = hip - 0.25, head = shoulder - 0.115;
  disc({x + 0.012 * to, head}, 0.058);
  bar({x, head + 0.03}, {x, shoulder + 0.02}, 0.026, 0.034);
  bar({x, shoulder + 0.02}, {x, hip}, 0.072, 0.062);
  for (const double side : {0.0, std::numbers::pi}) {
    const double swing = std::sin(step + side) * 0.5, bent = std::max(0.0, std::cos(step + side)) * 0.5;
    const Point knee{x + std::sin(swing) * 0.18 * to, hip + std::cos(swing) * 0.18};
    const Point foot{knee.x + std::sin(swing - bent) * 0.18 * to, std::min(ground, knee.y + std::cos(swing - bent) * 0.18)};
    bar({x, hip}, knee, 0.052, 0.036);
    bar(knee, foot, 0.036, 0.024);
    bar(foot, {foot.x + 0.045 * to, foot.y + 0.004}, 0.022, 0.016);
    const double arm = -swing * 0.8;
    const Point elbow{x + std::sin(arm) * 0.13 * to, shoulder + 0.03 + std::cos(arm) * 0.13};
    bar({x, shoulder + 0.03}, elbow, 0.030, 0.024);
    bar(elbow, {elbow.x + std::sin(arm + 0.5) * 0.12 * to, elbow.y + std::cos(arm + 0.5) * 0.12}, 0.024, 0.018);
  }
}

void FurnaceScene::clock(double seconds) {
  const double wide = static_cast<double>(shape_.size.width) / shape_.size.height;
  const Point middle{wide - 0.20, 0.19};
  const double angle = seconds / turnOfHand * 2 * std::numbers::pi;
  bar(middle, {middle.x + 0.085 * std::sin(angle), middle.y - 0.085 * std::cos(angle)}, 0.009, 0.005);
  disc(middle, 0.013);
}

void FurnaceScene::ink(Picture& picture, int luma, int blue, int red) {
  const auto lay = [](std::uint8_t& of, int in, int value) { of = static_cast<std::uint8_t>((of * (255 - in) + value * in + 127) / 255); };
  const auto wide = static_cast<std::size_t>(shape_.size.width);
  const auto at = [&](int x, int y) {
    return covered_[static_cast<std::size_t>(std::min(y, shape_.size.height - 1)) * wide + static_cast<std::size_t>(std::min(x, shape_.size.width - 1))];
  };
  for (int y = top_; y < bottom_; ++y)
    for (int x = left_; x < right_; ++x)
      if (const int in = at(x, y)) lay(picture.writableRow(0, y)[x], in, luma);
  for (int y = top_ / 2; y < (bottom_ + 1) / 2; ++y)
    for (int x = left_ / 2; x < (right_ + 1) / 2; ++x)
      if (const int in = (at(2 * x, 2 * y) + at(2 * x, 2 * y + 1)) / 2) {
        lay(picture.writableRow(1, y)[x], in, blue);
        lay(picture.writableRow(2, y)[x], in, red);
      }
  for (int y = top_; y < bottom_; ++y)
    std::fill_n(covered_.begin() + static_cast<std::ptrdiff_t>(static_cast<std::size_t>(y) * wide) + left_, right_ - left_, std::uint8_t(0));
  left_ = shape_.size.width, top_ = shape_.size.height, right_ = bottom_ = 0;
}

Picture FurnaceScene::at(double seconds) {
  Picture picture(shape_);
  const Picture& wall = walls_[static_cast<std::size_t>(static_cast<std::int64_t>(std::floor(seconds * 9)) * 5 % flickers + flickers) % flickers];
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < picture.planeHeight(p); ++y) std::memcpy(picture.writableRow(p, y), wall.row(p, y), wall.rowBytes(p));
  const double wide = static_cast<double>(shape_.size.width) / shape_.size.height;
  disc({wide - 0.20, 0.19}, 0.115);
  ink(picture, 178, 112, 138);
  clock(seconds);
  ink(picture, 30, 124, 132);
  person(seconds);
  ink(picture, 24, 126, 131);
  return picture;
}

}  // namespace molten
