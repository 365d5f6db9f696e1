// The poses: four drawings, in chalk on slate, of a pair of tongs that open and close.
#include "scene.h"

namespace demo {
namespace {

float toSegment(float x, float y, float ax, float ay, float bx, float by) {
  const float dx = bx - ax, dy = by - ay;
  const float t = std::clamp(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy), 0.0f, 1.0f);
  return std::sqrt(square(x - ax - t * dx) + square(y - ay - t * dy));
}

struct Scene {
  int pose;
  float opening;  // half the angle between the arms

  explicit Scene(int p) : pose(p) {
    static constexpr float openings[] = {0.06f, 0.20f, 0.36f, 0.52f};
    opening = openings[std::clamp(p, 0, 3)];
  }

  /// How far a place is from the strokes of one arm.
  float arm(float x, float y, float side) const {
    // Crossing at the rivet: what is above on one end is below on the other.
    const float rivetX = 0.86f, rivetY = 0.5f;
    const float c = std::cos(side * opening), s = std::sin(side * opening);
    const auto turned = [&](float px, float py, float& ox, float& oy) {
      ox = rivetX + px * c - py * s;
      oy = rivetY + px * s + py * c;
    };
    static constexpr float line[][2] = {{-0.62f, 0.02f}, {-0.40f, 0.05f}, {-0.12f, 0.015f}, {0.0f, 0.0f},
                                        {0.14f, -0.02f}, {0.34f, -0.07f}, {0.50f, -0.02f},  {0.56f, 0.0f}};
    float least = 1;
    for (int i = 0; i + 1 < 8; ++i) {
      float ax, ay, bx, by;
      turned(line[i][0], line[i][1] * side, ax, ay);
      turned(line[i + 1][0], line[i + 1][1] * side, bx, by);
      least = std::min(least, toSegment(x, y, ax, ay, bx, by));
    }
    return least;
  }

  Light at(float x, float y) const {
    const float grain = 0.5f + 0.5f * std::sin(x * 611 + std::sin(y * 397) * 3) * std::sin(y * 523);
    Light c = Light{0.035f, 0.042f, 0.045f} * (0.85f + 0.2f * grain);
    const float wobble =
        0.004f * std::sin(x * 37 + static_cast<float>(pose) * 2) + 0.003f * std::sin(y * 51 - static_cast<float>(pose));
    const Light chalk{0.80f, 0.78f, 0.72f};
    for (const float side : {1.0f, -1.0f}) {
      const float off = std::abs(arm(x + wobble, y + wobble, side) - 0.022f);
      c = mix(c, chalk, smooth(0.006f, 0.002f, off) * (0.55f + 0.45f * grain));
    }
    const float rivet = std::sqrt(square(x - 0.86f) + square(y - 0.5f));
    c = mix(c, Light{0.035f, 0.042f, 0.045f}, smooth(0.030f, 0.027f, rivet));
    c = mix(c, chalk, smooth(0.005f, 0.002f, std::abs(rivet - 0.028f)) * (0.6f + 0.4f * grain));
    // As many strokes in the corner as the drawing's number.
    for (int i = 0; i <= pose; ++i)
      c = mix(c, chalk * 0.6f,
              smooth(0.005f, 0.002f,
                     toSegment(x, y, 0.12f + 0.03f * static_cast<float>(i), 0.86f,
                               0.13f + 0.03f * static_cast<float>(i), 0.92f)));
    return c;
  }
};

}  // namespace

Clip poses() {
  return {"poses", 960, 540, 12, 4, [](float s) {
            return [scene = Scene(static_cast<int>(s * 12 + 0.5f))](float x, float y) { return scene.at(x, y); };
          }};
}

}  // namespace demo
