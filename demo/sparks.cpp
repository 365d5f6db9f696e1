// Sparks: in the dark a rod is held to the wheel, and then its glowing tip is waved about.
#include <memory>
#include <vector>

#include "scene.h"

namespace demo {
namespace {

constexpr float seconds = 8, ground = 3.3f;  ///< until then the rod is ground
constexpr float wheelX = 0.46f, wheelY = 0.66f, wheelR = 0.17f;
constexpr float touchX = 0.60f, touchY = 0.56f;

struct Spark {
  float x, y, px, py;  ///< where it is, and a little earlier
  float heat;          ///< 1 … 0
};

/// Where the rod's tip is.
std::pair<float, float> tipAt(float s) {
  const float k = smooth(ground, ground + 0.7f, s), t = s - ground;
  const float ex = 0.98f + 0.52f * std::sin(t * 2.9f + 0.4f) * (1 - 0.15f * t / 5),
              ey = 0.47f + 0.29f * std::sin(t * 4.37f + 1.1f);
  return {touchX * (1 - k) + ex * k, touchY * (1 - k) + ey * k + 0.004f * std::sin(s * 61) * (1 - k)};
}

struct Scene {
  static constexpr int across = 64, down = 36;
  static constexpr float cell = 1.0f / down;
  float now, tipX, tipY, grinding, heat;
  std::vector<Spark> sparks;
  std::vector<std::vector<int>> near;  ///< sparks by cell

  explicit Scene(float s) : now(s) {
    std::tie(tipX, tipY) = tipAt(s);
    // It is pressed on three times.
    const float press = 0.35f + 0.65f * square(std::sin(std::clamp(s, 0.0f, ground) / ground * 3 * pi));
    grinding = press * smooth(ground + 0.05f, ground - 0.25f, s) * smooth(0.0f, 0.2f, s);
    heat = 0.55f + 0.45f * smooth(0.3f, 2.5f, s) - 0.45f * smooth(ground, seconds + 1.5f, s);
    near.resize(across * down);
    constexpr int many = 420;
    for (int i = 0; i < many; ++i) {
      // Each is born again and again, a life after a life.
      const float life = 0.35f + 0.65f * lot(i, 1), phase = lot(i, 2) * life;
      const int number = static_cast<int>(std::floor((s + phase) / life));
      const float age = s + phase - static_cast<float>(number) * life, born = s - age;
      const float pressed = 0.35f + 0.65f * square(std::sin(std::clamp(born, 0.0f, ground) / ground * 3 * pi));
      if (born < 0.05f || born > ground - 0.1f || lot(i, number + 9) > pressed) continue;
      const float angle = -0.12f - 0.62f * lot(i, number + 3) * lot(i, number + 4),
                  speed = 0.9f + 1.5f * lot(i, number + 5);
      const auto place = [&](float t) {
        const float drag = (1 - std::exp(-1.6f * t)) / 1.6f;
        return std::pair(touchX + std::cos(angle) * speed * drag,
                         touchY + std::sin(angle) * speed * drag + 0.85f * t * t);
      };
      Spark spark{};
      std::tie(spark.x, spark.y) = place(age);
      std::tie(spark.px, spark.py) = place(std::max(0.0f, age - 0.016f));
      // Falling on the floor it springs up once.
      if (spark.y > 0.93f) continue;
      spark.heat = square(1 - age / life);
      const int index = static_cast<int>(sparks.size());
      sparks.push_back(spark);
      const float pad = 0.02f;
      const int x0 = std::max(0, static_cast<int>((std::min(spark.x, spark.px) - pad) / cell)),
                x1 = std::min(across - 1, static_cast<int>((std::max(spark.x, spark.px) + pad) / cell));
      const int y0 = std::max(0, static_cast<int>((std::min(spark.y, spark.py) - pad) / cell)),
                y1 = std::min(down - 1, static_cast<int>((std::max(spark.y, spark.py) + pad) / cell));
      for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x) near[static_cast<std::size_t>(y * across + x)].push_back(index);
    }
  }

  Light at(float x, float y) const {
    // The shop: a wall of planks, a bench, a lamp far off.
    const float plank = std::abs(std::fmod(x + 0.03f, 0.13f) - 0.065f);
    Light c = Light{0.010f, 0.0095f, 0.010f} * (0.7f + 0.3f * smooth(0.0645f, 0.061f, plank)) *
              (0.96f + 0.04f * std::sin(y * 90 + std::sin(x * 13) * 3));
    const float lamp = std::sqrt(square(x - 1.62f) + square(y - 0.17f));
    c = c + Light{0.10f, 0.07f, 0.03f} * square(smooth(0.55f, 0.0f, lamp)) +
        Light{0.8f, 0.6f, 0.3f} * smooth(0.016f, 0.012f, lamp);
    if (y > 0.86f) c = Light{0.020f, 0.014f, 0.010f} * (0.93f + 0.07f * std::sin(x * 60 + std::sin(y * 40)));
    // What shines lights the shop a little.
    const float toTouch = std::sqrt(square(x - touchX) + square(y - touchY)),
                toTip = std::sqrt(square(x - tipX) + square(y - tipY));
    const Light local = Light{0.9f, 0.48f, 0.16f} * (grinding * square(smooth(0.75f, 0.0f, toTouch))) +
                        Light{0.8f, 0.25f, 0.06f} * (heat * 0.8f * square(smooth(0.45f, 0.0f, toTip)));
    c = c + local * Light{0.085f, 0.075f, 0.06f};
    // The wheel, turning.
    const float r = std::sqrt(square(x - wheelX) + square(y - wheelY));
    if (r < wheelR + 0.01f) {
      const float angle = std::atan2(y - wheelY, x - wheelX) - now * 31;
      const float grain = 0.85f + 0.15f * std::sin(angle * 11 + r * 90) * std::sin(r * 70);
      Light stone = (Light{0.030f, 0.028f, 0.027f} + local * 0.5f) * grain;
      stone = mix(stone, Light{0.012f, 0.012f, 0.013f} + local * 0.1f, smooth(0.05f, 0.045f, r));
      c = mix(c, stone, smooth(wheelR + 0.0015f, wheelR - 0.0015f, r));
    }
    // The rod, from a hand outside of the picture, to its tip.
    const float fromX = tipX + 0.55f + 0.35f * (1.2f - tipX), fromY = 1.08f;
    const float dx = fromX - tipX, dy = fromY - tipY, length = dx * dx + dy * dy;
    const float along = std::clamp(((x - tipX) * dx + (y - tipY) * dy) / length, 0.0f, 1.0f);
    const float off = std::sqrt(square(x - tipX - along * dx) + square(y - tipY - along * dy)),
                far = along * std::sqrt(length);
    const float glow = heat * square(smooth(0.20f, 0.0f, far));
    const Light rod = Light{0.03f, 0.03f, 0.032f} + local * 0.25f + Light{2.6f, 1.05f, 0.25f} * glow +
                      Light{1.2f, 0.9f, 0.5f} * (heat * smooth(0.05f, 0.0f, far));
    c = mix(c, rod, smooth(0.010f, 0.007f, off));
    c = c + Light{0.9f, 0.30f, 0.06f} * (heat * 0.35f * square(smooth(0.10f, 0.0f, toTip)));
    // Where it touches the wheel.
    c = c + Light{3.2f, 2.2f, 1.0f} * (grinding * square(smooth(0.045f, 0.0f, toTouch)));
    const int column = static_cast<int>(x / cell), line = static_cast<int>(y / cell);
    if (column < 0 || column >= across || line < 0 || line >= down) return c;
    for (const int i : near[static_cast<std::size_t>(line * across + column)]) {
      const Spark& spark = sparks[static_cast<std::size_t>(i)];
      const float sx = spark.px - spark.x, sy = spark.py - spark.y, l = std::max(1e-8f, sx * sx + sy * sy);
      const float k = std::clamp(((x - spark.x) * sx + (y - spark.y) * sy) / l, 0.0f, 1.0f);
      const float d = std::sqrt(square(x - spark.x - k * sx) + square(y - spark.y - k * sy));
      const Light hot = mix(Light{1.1f, 0.30f, 0.05f}, Light{3.6f, 2.5f, 1.2f}, spark.heat);
      c = c + hot * (smooth(0.0030f, 0.0009f, d) * (0.35f + 0.65f * spark.heat) * (1 - 0.6f * k));
      c = c + hot * (0.05f * spark.heat * square(smooth(0.016f, 0.0f, d)));
    }
    return c;
  }
};

}  // namespace

Clip sparks() {
  return {"sparks", 1280, 720, 30, static_cast<int>(seconds * 30), [](float s) {
            return [scene = std::make_shared<const Scene>(s)](float x, float y) { return scene->at(x, y); };
          }};
}

}  // namespace demo
