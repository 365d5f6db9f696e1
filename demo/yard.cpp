// The yard: the works and their chimneys from deep night to high noon. Nothing moves but the light.
#include <array>

#include "scene.h"

namespace demo {
namespace {

constexpr float seconds = 20, groundY = 0.74f, width = 16.0f / 9;

/// A light that changes through the day: its values in deep night, at first light, in the morning and at noon.
Light through(float day, const std::array<Light, 4>& lights) {
  static constexpr float at[] = {0.16f, 0.44f, 0.66f, 1.0f};
  for (int i = 2; i >= 0; --i)
    if (day >= at[i])
      return mix(lights[static_cast<std::size_t>(i)], lights[static_cast<std::size_t>(i) + 1],
                 smooth(at[i], at[i + 1], day));
  return lights[0];
}

float lot(float a, float b) {
  const float v = std::sin(a * 127.1f + b * 311.7f) * 43758.55f;
  return v - std::floor(v);
}

struct Building {
  float left, right, roof;
  int columns, rows;
  Light brick;
};
constexpr Building buildings[] = {
    {-0.05f, 0.44f, 0.50f, 7, 2, {0.30f, 0.17f, 0.12f}},
    {0.40f, 1.04f, 0.40f, 9, 4, {0.36f, 0.20f, 0.13f}},
    {1.10f, 1.44f, 0.54f, 4, 2, {0.26f, 0.18f, 0.15f}},
    {1.40f, 1.90f, 0.47f, 6, 3, {0.33f, 0.19f, 0.14f}},
};
struct Chimney {
  float x, top, half;
};
constexpr Chimney chimneys[] = {
    {0.30f, 0.16f, 0.026f}, {0.72f, 0.07f, 0.032f}, {1.26f, 0.22f, 0.024f}, {1.62f, 0.12f, 0.028f}};

struct Scene {
  float now, day, sunX, sunY, up;  ///< up: how high the sun stands, 0 on the horizon
  Light zenith, horizon, sun, sky;

  explicit Scene(float s) : now(s), day(s / seconds) {
    up = (day - 0.40f) / 0.60f;
    sunX = 1.62f - 0.55f * std::max(up, -0.2f);
    sunY = groundY - 0.06f - 0.66f * std::sin(std::max(up, -0.3f) * pi / 2);
    zenith = through(
        day, {{{0.004f, 0.007f, 0.022f}, {0.045f, 0.06f, 0.15f}, {0.11f, 0.22f, 0.48f}, {0.09f, 0.26f, 0.68f}}});
    horizon =
        through(day, {{{0.012f, 0.017f, 0.040f}, {0.70f, 0.27f, 0.12f}, {0.80f, 0.62f, 0.44f}, {0.42f, 0.60f, 0.84f}}});
    sun = through(day, {{{0, 0, 0}, {0.55f, 0.20f, 0.07f}, {1.05f, 0.78f, 0.50f}, {1.25f, 1.15f, 1.0f}}}) *
          smooth(-0.08f, 0.10f, up);
    sky = mix(horizon, zenith, 0.6f);
  }

  Light heaven(float x, float y) const {
    const float height = std::clamp((groundY - y) / groundY, 0.0f, 1.0f);
    Light c = mix(horizon, zenith, std::pow(height, 0.55f));
    // First light comes from where the sun will.
    const float toSun = std::sqrt(square(x - sunX) + square(y - sunY));
    c = c +
        Light{0.55f, 0.22f, 0.07f} * (smooth(0.9f, 0.0f, toSun) * smooth(0.20f, 0.42f, day) * smooth(0.75f, 0.5f, day));
    c = c + sun * (0.35f * smooth(0.30f, 0.0f, toSun)) +
        Light{4, 3.4f, 2.6f} * (smooth(0.031f, 0.027f, toSun) * smooth(-0.05f, 0.05f, up));
    // Stars go out one after another.
    const float cellX = std::floor(x / 0.028f), cellY = std::floor(y / 0.028f);
    const float dx = x / 0.028f - cellX - 0.25f - 0.5f * lot(cellX, cellY),
                dy = y / 0.028f - cellY - 0.25f - 0.5f * lot(cellY, cellX);
    const float bright = lot(cellX + 7, cellY + 3);
    if (bright > 0.72f) {
      const float star = smooth(0.07f, 0.02f, std::sqrt(dx * dx + dy * dy)) * (bright - 0.7f) * 3;
      c = c + Light{0.9f, 0.92f, 1.0f} * (star * smooth(0.24f + 0.12f * bright, 0.16f + 0.1f * bright, day));
    }
    return c;
  }

  /// How much of the sun reaches a place of the ground: chimneys and halls throw shadows away from it.
  float lit(float x, float deep) const {
    if (up <= 0) return 0;
    const float slant = (x - sunX) * 0.9f / (0.25f + up);
    float light = 1;
    for (const Chimney& chimney : chimneys) {
      const float reach = (groundY - chimney.top) * 0.55f / (0.25f + up);
      const float at = chimney.x + slant * deep * 0.45f;
      light = std::min(light, 1 - smooth(chimney.half + 0.006f, chimney.half - 0.004f, std::abs(x - at)) *
                                      smooth(reach + 0.05f, reach, deep));
    }
    for (const Building& hall : buildings) {
      const float reach = (groundY - hall.roof) * 0.30f / (0.22f + up);
      const float at = slant * deep * 0.45f;
      if (x - at > hall.left && x - at < hall.right)
        light = std::min(light, 1 - smooth(reach + 0.02f, reach - 0.02f, deep));
    }
    return light;
  }

  Light wall(const Building& hall, float x, float y, Light behind) const {
    const float edge = std::max({hall.left - x, x - hall.right, hall.roof - y});
    if (edge > 0.003f || y > groundY) return behind;
    const float row = std::floor(y / 0.013f), bx = x + (std::fmod(row, 2.0f) == 0 ? 0 : 0.014f);
    const float joint = std::min(std::fmod(bx + 1, 0.028f), std::fmod(y, 0.013f));
    const float shade = 0.82f + 0.18f * lot(std::floor(bx / 0.028f), row);
    Light face = hall.brick * (shade * (0.75f + 0.25f * smooth(0.0005f, 0.002f, joint)));
    // The front looks to the south: the sun comes round to it.
    Light c =
        face * (sky * 0.75f + Light{0.006f, 0.006f, 0.008f}) + face * sun * (0.25f + 0.6f * smooth(0.1f, 0.8f, up));
    c = c * (0.72f + 0.28f * smooth(0.0f, 0.03f, y - hall.roof));
    // Windows of small panes, lit until somebody puts the light out.
    const float w = hall.right - hall.left, h = groundY - hall.roof;
    const float u = (x - hall.left) / w * static_cast<float>(hall.columns),
                v = (y - hall.roof) / h * static_cast<float>(hall.rows);
    const float column = std::floor(u), line = std::floor(v), inX = std::abs(u - column - 0.5f),
                inY = std::abs(v - line - 0.52f);
    const float frame = std::max(inX / 0.30f, inY / 0.33f);
    if (frame < 1) {
      const float out = 0.24f + 0.34f * lot(column + hall.left * 17, line + 2);
      const bool never = lot(line + 5, column + hall.right * 9) < 0.18f;
      const float burning = never ? 0 : smooth(out + 0.004f, out - 0.004f, day);
      const float bars = std::min(std::fmod(inX + 0.045f, 0.10f), std::fmod(inY + 0.055f, 0.12f));
      const Light dark = sky * 0.30f + sun * (0.10f * smooth(0.2f, 0.5f, up));
      const Light warm = Light{1.05f, 0.56f, 0.17f} * (0.80f + 0.35f * lot(column, line + hall.roof * 31)) *
                         (0.75f + 0.25f * smooth(0.33f, 0.0f, inY));
      c = mix(mix(dark, warm, burning), face * 0.25f, smooth(0.018f, 0.010f, bars) * 0.8f);
    }
    return mix(behind, c, smooth(0.0015f, -0.0015f, edge));
  }

  Light stack(const Chimney& chimney, float x, float y, Light behind) const {
    const float taper = chimney.half * (0.74f + 0.26f * (y - chimney.top) / (groundY - chimney.top));
    const float rim = smooth(0.022f, 0.018f, y - chimney.top) * 0.006f;
    const float edge = std::max(std::abs(x - chimney.x) - taper - rim, chimney.top - y);
    if (edge > 0.003f || y > groundY) return behind;
    const float across = (x - chimney.x) / taper, row = std::floor(y / 0.010f);
    const Light brick = Light{0.34f, 0.17f, 0.11f} * (0.85f + 0.15f * lot(row, chimney.x));
    const float side = std::clamp(0.55f + 0.45f * across * (sunX > chimney.x ? 1.0f : -1.0f) + 0.3f * up, 0.1f, 1.0f);
    const Light c = brick * (sky * 0.7f + Light{0.005f, 0.005f, 0.007f}) + brick * sun * side;
    return mix(behind, c, smooth(0.0015f, -0.0015f, edge));
  }

  Light ground(float x, float y) const {
    const float deep = (y - groundY) / (1 - groundY);
    // Setts, smaller far away.
    const float far = 0.25f + 0.75f * deep, row = std::floor(std::pow(deep, 0.62f) * 24);
    const float across = (x - width / 2) / far + width / 2 + (std::fmod(row, 2.0f) == 0 ? 0 : 0.03f);
    const float stone = std::floor(across / 0.06f), inX = std::abs(across / 0.06f - stone - 0.5f);
    const float inY = std::abs(std::pow(deep, 0.62f) * 24 - row - 0.5f);
    const float joint = smooth(0.5f, 0.40f, std::max(inX, inY));
    const Light c = Light{0.20f, 0.19f, 0.19f} * ((0.75f + 0.25f * lot(stone, row)) * (0.55f + 0.45f * joint));
    Light all = c * (sky * 0.8f + Light{0.005f, 0.005f, 0.008f}) +
                c * sun * (lit(x, deep) * (0.35f + 0.65f * smooth(0.0f, 0.7f, up)));
    // The windows' light on the stones while they burn.
    const float night = smooth(0.52f, 0.26f, day);
    all = all + c * Light{0.85f, 0.42f, 0.13f} * (night * smooth(0.55f, 0.0f, deep) * (0.6f + 0.4f * std::sin(x * 21)));
    // Two lamps on their posts.
    const float lamp = smooth(0.47f, 0.45f, day);
    for (const float lx : {0.24f, 1.50f})
      all = all + c * Light{1.5f, 1.05f, 0.55f} *
                      (lamp * smooth(0.40f, 0.0f, std::sqrt(square(x - lx) + square((y - 0.90f) * 2.2f))));
    return all;
  }

  Light post(float x, float y, Light behind) const {
    const float lamp = smooth(0.47f, 0.45f, day);
    for (const float lx : {0.24f, 1.50f}) {
      const float iron = std::max(std::abs(x - lx) - 0.005f, std::abs(y - 0.74f) - 0.16f);
      behind = mix(behind, Light{0.05f, 0.055f, 0.06f} * (sky + sun * 0.8f) + Light{0.004f, 0.004f, 0.005f},
                   smooth(0.0015f, -0.0015f, iron));
      const float r = std::sqrt(square(x - lx) + square(y - 0.575f));
      behind = mix(behind, mix(Light{0.35f, 0.36f, 0.36f} * (sky + sun * 0.5f), Light{2.2f, 1.7f, 1.0f}, lamp),
                   smooth(0.018f, 0.015f, r));
      behind = behind + Light{0.55f, 0.36f, 0.16f} * (lamp * square(smooth(0.16f, 0.0f, r)));
    }
    return behind;
  }

  Light at(float x, float y) const {
    if (y > groundY) return post(x, y, ground(x, y));
    Light c = heaven(x, y);
    // Hills far off.
    const float hill = 0.645f + 0.030f * std::sin(x * 3.1f + 1) + 0.014f * std::sin(x * 8.3f);
    c = mix(c, mix(horizon, sky, 0.5f) * 0.45f + Light{0.002f, 0.003f, 0.004f},
            smooth(hill - 0.002f, hill + 0.002f, y));
    for (const Chimney& chimney : chimneys) c = stack(chimney, x, y, c);
    for (const Building& hall : buildings) c = wall(hall, x, y, c);
    return post(x, y, c);
  }
};

}  // namespace

Clip yard() {
  return {"yard", 1280, 720, 30, static_cast<int>(seconds * 30), [](float s) {
            return [scene = Scene(s)](float x, float y) { return scene.at(x, y); };
          }};
}

}  // namespace demo
