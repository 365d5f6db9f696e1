// The tour: one slow move along a machine of the glassworks, past its gauge, its maker's plate and its valve.
#include "scene.h"

namespace demo {
namespace {

constexpr float gaugeX = 0.89f, plateX = 2.30f, valveX = 3.70f, middle = 0.50f;
constexpr float seconds = 12;

/// Rows of letters, five dots wide and seven high, as engraved on the plate.
struct Letter {
  char name;
  unsigned char rows[7];
};
constexpr Letter letters[] = {{'F', {31, 16, 16, 30, 16, 16, 16}}, {'E', {31, 16, 16, 30, 16, 16, 31}},
                              {'R', {30, 17, 17, 30, 20, 18, 17}}, {'O', {14, 17, 17, 17, 17, 17, 14}},
                              {'W', {17, 17, 17, 21, 21, 21, 10}}, {'I', {14, 4, 4, 4, 4, 4, 14}},
                              {'C', {14, 17, 16, 16, 16, 17, 14}}, {'K', {17, 18, 20, 24, 20, 18, 17}},
                              {'N', {17, 25, 21, 19, 17, 17, 17}}, {'7', {31, 1, 2, 4, 8, 8, 8}}};

/// 1 on the strokes of a line of words that is `size` high and begins at 0, 0; soft at the edges.
float engraved(const char* words, float x, float y, float size) {
  const float dot = size / 7;
  if (y < -dot || y > size + dot) return 0;
  float most = 0;
  for (float begin = 0; *words; ++words, begin += 6 * dot) {
    if (x < begin - dot || x > begin + 6 * dot) continue;
    for (const Letter& letter : letters) {
      if (letter.name != *words) continue;
      for (int row = 0; row < 7; ++row)
        for (int column = 0; column < 5; ++column)
          if (letter.rows[row] >> (4 - column) & 1) {
            const float dx = std::max(0.0f,
                                      std::abs(x - begin - (static_cast<float>(column) + 0.5f) * dot) - dot * 0.32f),
                        dy = std::max(0.0f, std::abs(y - (static_cast<float>(row) + 0.5f) * dot) - dot * 0.32f);
            most = std::max(most, smooth(dot * 0.30f, dot * 0.12f, std::sqrt(dx * dx + dy * dy)));
          }
    }
  }
  return most;
}

struct Scene {
  float now, cameraX, cameraY;

  explicit Scene(float s) : now(s) {
    const float along = smooth(0, 1, s / seconds) * 0.35f + s / seconds * 0.65f;
    cameraX = along * (valveX - gaugeX);
    cameraY = 0.02f * std::sin(2 * pi * s / 6);
  }

  /// Light of a lamp that passes over the machine, and one that stays.
  float lit(float x, float y) const {
    const float lamp = gaugeX + 2.9f * (0.5f + 0.5f * std::sin(2 * pi * now / 9 - 1.2f));
    return 0.30f + 0.55f / (1 + 3 * square(x - lamp) + 5 * square(y - 0.1f)) + 0.2f * smooth(1.1f, 0.0f, y);
  }

  Light wall(float x, float y) const {
    // Plates of steel, riveted along their joints.
    const float plate = std::floor(x / 0.7f), inX = x - plate * 0.7f;
    const float joint = std::min(inX, 0.7f - inX), row = std::min(std::abs(y - 0.08f), std::abs(y - 0.92f));
    Light c = Light{0.16f, 0.19f, 0.21f} * (0.85f + 0.08f * std::sin(plate * 5.1f) + 0.05f * std::sin(x * 90 + y * 7));
    c = c * (0.35f + 0.65f * smooth(0.0f, 0.006f, joint)) * (0.5f + 0.5f * smooth(0.0f, 0.004f, row));
    const float rx = std::fmod(x + 10, 0.0875f) - 0.04375f;
    for (const float ry : {0.045f, 0.955f}) {
      const float rivet = std::sqrt(square(rx) + square(y - ry));
      c = mix(c, Light{0.30f, 0.33f, 0.35f} * (0.7f - 22 * (y - ry) - 10 * rx), smooth(0.016f, 0.012f, rivet));
    }
    // A pipe along the whole machine, warm from what runs in it.
    const float u = (y - 0.79f) / 0.05f;
    if (std::abs(u) < 1) {
      const float round = std::sqrt(1 - u * u);
      const float ring = smooth(0.014f, 0.010f, std::abs(std::fmod(x + 10, 0.47f) - 0.235f));
      c = (Light{0.38f, 0.20f, 0.10f} + Light{0.10f, 0.08f, 0.05f} * ring) * (0.2f + round * (0.75f - 0.55f * u));
    }
    return c;
  }

  /// A dial with a needle that climbs, trembling, and falls back.
  Light gauge(Light c, float x, float y) const {
    const float dx = x - gaugeX, dy = y - middle, r = std::sqrt(dx * dx + dy * dy);
    if (r > 0.31f) return c;
    c = mix(c, Light{0.45f, 0.34f, 0.16f} * (0.5f - 1.6f * dy / 0.3f * 0.5f + 0.5f), smooth(0.305f, 0.300f, r));
    c = mix(c, Light{0.80f, 0.76f, 0.66f}, smooth(0.262f, 0.258f, r));
    const float angle = std::atan2(dx, -dy);
    const float reach = 2.2f;
    if (std::abs(angle) < reach + 0.02f) {
      const float tick = std::fmod(angle + reach + 0.11f, 0.22f) - 0.11f;
      c = mix(c, Light{0.03f, 0.03f, 0.03f},
              smooth(0.006f, 0.003f, std::abs(tick) * r) * smooth(0.205f, 0.210f, r) * smooth(0.248f, 0.243f, r));
      if (angle > 1.5f)
        c = mix(c, Light{0.55f, 0.05f, 0.03f}, 0.85f * smooth(0.222f, 0.226f, r) * smooth(0.243f, 0.239f, r));
    }
    const float needle = -1.9f + 3.3f * smooth(0.2f, 3.4f, now) - 2.2f * smooth(6, 11, now) +
                         0.05f * std::sin(now * 41) * smooth(1.5f, 3, now);
    const float ax = std::sin(needle), ay = -std::cos(needle);
    const float along = dx * ax + dy * ay, aside = std::abs(dx * ay - dy * ax);
    if (along > -0.06f && along < 0.225f)
      c = mix(c, Light{0.04f, 0.04f, 0.05f}, smooth(0.011f - 0.03f * along, 0.008f - 0.03f * along, aside));
    c = mix(c, Light{0.35f, 0.27f, 0.13f}, smooth(0.026f, 0.023f, r));
    const float shine = smooth(0.25f, 0.2f, r) * smooth(0.10f, 0.0f, std::abs(dx + dy + 0.14f));
    return c + Light{0.10f, 0.11f, 0.12f} * shine;
  }

  Light plate(Light c, float x, float y) const {
    const float dx = x - plateX, dy = y - middle;
    const float edge = std::max(std::abs(dx) - 0.46f, std::abs(dy) - 0.21f);
    if (edge > 0.02f) return c;
    Light brass = Light{0.62f, 0.44f, 0.17f} * (0.75f + 0.25f * std::sin(dx * 3 + dy * 9 + now * 0.5f));
    brass = brass * (0.55f + 0.45f * smooth(0.0f, 0.01f, std::abs(edge + 0.03f)));
    const float words = std::max(engraved("FERROWICK", dx + 0.385f, dy + 0.115f, 0.10f),
                                 engraved("NO 7", dx + 0.135f, dy - 0.035f, 0.085f));
    brass = brass * (1 - 0.85f * words);
    for (const float sx : {-0.42f, 0.42f})
      for (const float sy : {-0.17f, 0.17f})
        brass = mix(brass, Light{0.25f, 0.24f, 0.22f},
                    smooth(0.018f, 0.015f, std::sqrt(square(dx - sx) + square(dy - sy))));
    return mix(c, brass, smooth(0.004f, 0.0f, edge));
  }

  /// A handwheel that someone out of sight turns, and the steam that it lets go.
  Light valve(Light c, float x, float y) const {
    const float dx = x - valveX, dy = y - middle, r = std::sqrt(dx * dx + dy * dy);
    const float turn = 2.4f * smooth(7.5f, 11.5f, now);
    if (std::abs(dx) < 0.05f && dy > 0)
      c = mix(c, Light{0.22f, 0.20f, 0.18f} * (1 - 6 * std::abs(dx)), smooth(0.05f, 0.047f, std::abs(dx)));
    const float angle = std::atan2(dy, dx) + turn;
    const float spoke = std::abs(std::sin(angle * 2.5f)) * r;
    const float iron =
        std::max(smooth(0.030f, 0.026f, std::abs(r - 0.24f)), smooth(0.020f, 0.016f, spoke) * smooth(0.25f, 0.24f, r));
    const float above = 0.7f - 1.4f * dy;
    c = mix(c, Light{0.42f, 0.06f, 0.04f} * above, std::max(iron, smooth(0.06f, 0.056f, r)));
    const float mark = std::fmod(angle + 20 * pi, 2 * pi);
    c = mix(c, Light{0.85f, 0.82f, 0.74f},
            smooth(0.018f, 0.014f, std::abs(r - 0.24f)) * smooth(0.16f, 0.12f, std::abs(mark - pi)));
    const float rise = std::max(0.0f, now - 8.5f);
    for (int i = 0; i < 5; ++i) {
      const float age = std::fmod(rise * 0.6f + static_cast<float>(i) * 0.2f, 1.0f);
      const float px = valveX + 0.33f + 0.10f * std::sin(static_cast<float>(i) * 2.1f + age * 4),
                  py = 0.80f - age * 0.75f;
      const float puff = std::sqrt(square(x - px) + square(y - py)) / (0.04f + 0.12f * age);
      if (rise > 0.05f)
        c = c + Light{0.30f, 0.31f, 0.32f} * (smooth(1.0f, 0.2f, puff) * (1 - age) * smooth(0, 0.8f, rise));
    }
    return c;
  }

  Light at(float sx, float sy) const {
    const float x = sx + cameraX, y = sy + cameraY;
    Light c = wall(x, y);
    c = gauge(c, x, y);
    c = plate(c, x, y);
    c = valve(c, x, y);
    c = c * Light{1.0f, 0.92f, 0.80f} * lit(x, y);
    return c * (1 - 0.35f * smooth(0.5f, 1.15f, std::sqrt(square(sx - 0.89f) + square(sy - 0.5f))));
  }
};

}  // namespace

Clip tour() {
  return {"tour", 1280, 720,
          60,     720,  [](float s) {
            return [scene = Scene(s)](float x, float y) { return scene.at(x, y); }; }};
}

}  // namespace demo
