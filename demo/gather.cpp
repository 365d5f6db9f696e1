// The gather: a vessel of glass turning on the blowpipe, the furnace breathing, a lamp swinging.
#include "scene.h"

namespace demo {
namespace {

constexpr float centre = 0.80f;              // across, in picture heights
constexpr float top = 0.205f, foot = 0.80f;  // of the vessel
constexpr float turnsASecond = 0.25f;

/// Half the vessel's width at a height: neck, shoulder, belly, foot.
float radius(float y) {
  static constexpr float points[][2] = {{0.205f, 0.034f}, {0.26f, 0.046f},  {0.33f, 0.085f},
                                        {0.42f, 0.158f},  {0.52f, 0.197f},  {0.62f, 0.182f},
                                        {0.71f, 0.128f},  {0.765f, 0.083f}, {0.80f, 0.07f}};
  constexpr int count = sizeof points / sizeof points[0];
  int i = 0;
  while (i + 2 < count && y > points[i + 1][0]) ++i;
  const auto at = [&](int k) { return points[std::clamp(k, 0, count - 1)][1]; };
  const float t = std::clamp((y - points[i][0]) / (points[i + 1][0] - points[i][0]), 0.0f, 1.0f);
  const float a = at(i - 1), b = at(i), c = at(i + 1), d = at(i + 2);
  return b + 0.5f * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
}

struct Scene {
  float seconds;
  float breath;  // of the furnace, about 1
  float lampX, lampY;

  explicit Scene(float s) : seconds(s) {
    breath = 1 + 0.16f * std::sin(2 * pi * s / 4) + 0.06f * std::sin(2 * pi * s / 1.6f);
    const float swing = 0.34f * std::sin(2 * pi * s / 4);
    lampX = 0.30f + 0.42f * std::sin(swing);
    lampY = 0.42f * std::cos(swing) - 0.12f;
  }

  Light furnaceColour() const { return Light{1.0f, 0.40f, 0.10f} * breath; }

  /// The mouth of the furnace: an arch in the right wall.
  float mouth(float x, float y) const {
    const float across = (x - 1.52f) / 0.155f;
    const float arch = y < 0.52f ? std::sqrt(square(across) + square((y - 0.52f) / 0.17f)) : std::abs(across);
    return smooth(1.03f, 0.97f, arch) * smooth(0.752f, 0.748f, y);
  }

  Light background(float x, float y) const {
    // A wall of large blocks, lit by the furnace from the right and by the lamp from above.
    const float row = std::floor(y / 0.11f);
    const float bx = x / 0.22f + (static_cast<int>(row) % 2 ? 0.5f : 0.0f), by = y / 0.11f;
    const float jointX = std::abs(bx - std::round(bx)) * 0.22f, jointY = std::abs(by - std::round(by)) * 0.11f;
    const float joint = smooth(0.0f, 0.0045f, std::min(jointX, jointY));
    const float tone = 0.9f + 0.1f * std::sin(std::floor(bx) * 12.9f + row * 7.1f);
    const float toFurnace = square(x - 1.50f) + square(y - 0.56f);
    const float toLamp = square(x - lampX) + square(y - lampY);
    Light wall = Light{0.30f, 0.27f, 0.25f} * (tone * (0.45f + 0.55f * joint));
    Light light = Light{0.014f, 0.017f, 0.024f} + furnaceColour() * (0.040f / (0.045f + toFurnace)) +
                  Light{1.0f, 0.86f, 0.58f} * (0.0085f / (0.012f + toLamp));
    Light c = wall * light;
    // The floor in front: boards with lit edges, and the furnace's glow lying on them.
    if (y > 0.86f) {
      const float depth = (y - 0.86f) / 0.14f, near = 0.35f + depth;
      const float board = std::abs(std::fmod((x - 0.89f) / near + 40.0f, 0.16f) - 0.08f);
      const float gap = 1 - (1 - smooth(0.0f, 0.006f / near, 0.08f - board)) * smooth(0.02f, 0.35f, depth);
      const Light wood = Light{0.16f, 0.12f, 0.09f} * (0.35f + 0.65f * gap);
      const float glow = 0.42f / (0.10f + square(x - 1.45f) + 0.5f * square(depth - 0.2f));
      c = wood * (Light{0.05f, 0.05f, 0.06f} + furnaceColour() * (0.26f * glow) +
                  Light{1.0f, 0.86f, 0.58f} * (0.012f / (0.05f + square(x - lampX))));
      c = c * smooth(0.858f, 0.866f, y);
    }
    // The mouth itself: white hot low down, darker to the crown.
    const float open = mouth(x, y);
    if (open > 0) {
      const float heat = 0.55f + 0.75f * smooth(0.34f, 0.75f, y) - 0.25f * std::abs(x - 1.52f) / 0.155f;
      c = mix(c,
              Light{1.6f, 0.62f, 0.14f} * (heat * breath) +
                  Light{0.9f, 0.75f, 0.35f} * square(square(std::max(0.0f, heat * breath - 0.35f))),
              open);
    }
    // Its frame of iron.
    const float frame =
        std::abs(x - 1.52f) < 0.19f && y > 0.30f && y < 0.775f ? smooth(0.19f, 0.186f, std::abs(x - 1.52f)) : 0.0f;
    if (frame > 0 && open < 1)
      c = mix(c,
              Light{0.012f, 0.012f, 0.014f} +
                  furnaceColour() * (0.05f * smooth(0.035f, 0.0f, std::abs(std::abs(x - 1.52f) - 0.155f))),
              frame * (1 - open) * smooth(0.30f, 0.305f, y) * smooth(0.775f, 0.77f, y));
    c = c + furnaceColour() * (0.010f / (0.03f + toFurnace));
    return c;
  }

  /// The glass: longitudinal bands of three colours, one of them single, so that turning and twisting are plain.
  Light glass(float angle, float y) const {
    const float turn = angle / (2 * pi) - std::floor(angle / (2 * pi));
    const float bands = turn * 12;
    const float inBand = bands - std::floor(bands);
    const float edge = smooth(0.0f, 0.06f, inBand) * smooth(1.0f, 0.94f, inBand);
    const int band = static_cast<int>(bands);
    static constexpr Light teal{0.02f, 0.30f, 0.30f}, violet{0.16f, 0.05f, 0.26f}, milk{0.85f, 0.80f, 0.70f},
        gold{0.95f, 0.48f, 0.06f};
    Light c = band == 0 ? milk : band % 2 ? violet : teal;
    if (band == 6) c = gold;
    c = c * (0.55f + 0.45f * edge);
    // Threads laid round the shoulder and the belly, level in the footage: a field across bends them too.
    for (const float thread : {0.375f, 0.395f, 0.655f, 0.675f})
      c = mix(c, milk, 0.75f * smooth(0.0055f, 0.0030f, std::abs(y - thread)));
    // Drops on the belly, between the bands.
    const float drop = std::sqrt(square((inBand - 0.5f) * 0.105f) + square(y - 0.525f));
    if (band % 2 && band != 6) c = mix(c, gold, smooth(0.024f, 0.019f, drop));
    return c;
  }

  Light at(float x, float y) const {
    Light c = background(x, y);
    // Light on its cord.
    const float cordX = 0.30f + (lampX - 0.30f) * std::clamp((y + 0.12f) / (lampY + 0.12f), 0.0f, 1.0f);
    if (y < lampY) c = mix(c, Light{0.01f, 0.01f, 0.01f}, smooth(0.0035f, 0.0018f, std::abs(x - cordX)));
    const float lamp = std::sqrt(square(x - lampX) + square(y - lampY));
    c = c + Light{1.0f, 0.80f, 0.46f} * (0.00035f / (0.0004f + square(lamp)) * smooth(0.5f, 0.05f, lamp));
    c = mix(c, Light{1.7f, 1.5f, 1.1f}, smooth(0.022f, 0.016f, lamp));
    const float shade = std::abs(x - lampX) - (0.010f + 0.7f * (y - lampY + 0.052f));
    if (y < lampY - 0.004f && y > lampY - 0.052f) c = mix(c, Light{0.05f, 0.06f, 0.055f}, smooth(0.003f, 0.0f, shade));
    // The pipe: iron, glowing where the glass sits.
    const float u = (x - centre) / 0.019f;
    if (std::abs(u) < 1.1f && y < 0.225f) {
      const float round = std::sqrt(std::max(0.0f, 1 - square(std::min(1.0f, std::abs(u)))));
      Light pipe = Light{0.20f, 0.20f, 0.21f} * (0.10f + 0.5f * round * std::max(0.0f, 0.35f + 0.65f * u)) +
                   Light{0.5f, 0.5f, 0.52f} * (0.7f * std::pow(std::max(0.0f, 1 - std::abs(u + 0.45f) * 2.4f), 2.0f));
      const float mark = std::sin(std::asin(std::clamp(u, -1.0f, 1.0f)) + 2 * pi * turnsASecond * seconds);
      pipe = pipe * (0.75f + 0.25f * smooth(-0.1f, 0.1f, mark));
      pipe = pipe + Light{1.0f, 0.30f, 0.06f} * square(smooth(0.06f, 0.225f, y));
      c = mix(c, pipe, smooth(1.06f, 0.94f, std::abs(u)));
    }
    c = vessel(c, x, y);
    // Shadows drawn a little towards the corners hold the eye on the vessel.
    return c * (1 - 0.30f * smooth(0.45f, 1.15f, std::sqrt(square(x - 0.89f) + square(y - 0.5f))));
  }

  Light vessel(Light behind, float x, float y) const {
    if (y < top - 0.004f || y > foot + 0.02f) return behind;
    const float r = radius(std::clamp(y, top, foot));
    const float u = (x - centre) / r;
    const float pixel = 0.0011f / r;
    const float cover = smooth(1 + pixel, 1 - pixel, std::abs(u)) *
                        smooth(0.0015f, -0.0015f, y - foot - 0.014f * std::sqrt(std::max(0.0f, 1 - u * u))) *
                        smooth(top - 0.002f, top + 0.001f, y);
    if (cover <= 0) return behind;
    const float inside = std::clamp(u, -0.9995f, 0.9995f);
    const float z = std::sqrt(1 - inside * inside);
    const float slope = (radius(std::min(foot, y + 0.003f)) - radius(std::max(top, y - 0.003f))) / 0.006f;
    const float length = std::sqrt(1 + slope * slope);
    const float nx = inside / length, ny = -slope / length, nz = z / length;
    const Light body = glass(std::asin(inside) + 2 * pi * turnsASecond * seconds, y);
    // Furnace from the right and a little in front, lamp from the upper left, the room from everywhere.
    const float warm = std::max(0.0f, nx * 0.80f + ny * -0.05f + nz * 0.60f);
    const float lx = lampX - centre, ly = lampY - y, ll = std::sqrt(lx * lx + ly * ly + 0.09f);
    const float cool = std::max(0.0f, (nx * lx - ny * -ly * -1.0f + nz * 0.3f) / ll) * 0.10f / (0.10f + ll * ll);
    Light c = body * (Light{0.050f, 0.055f, 0.070f} + furnaceColour() * (1.15f * warm) +
                      Light{1.0f, 0.5f, 0.2f} * (0.30f * warm) + Light{1.0f, 0.86f, 0.6f} * (1.5f * cool));
    // Light that has gone through: the far wall shines at the thin edge away from the furnace.
    c = c + body * furnaceColour() * (0.55f * std::pow(std::max(0.0f, -nx), 3.0f));
    // Highlights: a tall one of the furnace, a small one of the lamp.
    const float furnaceShine =
        std::exp(-square((inside - 0.60f) / 0.075f)) * smooth(0.30f, 0.46f, y) * smooth(0.74f, 0.60f, y);
    const float lampShine = std::exp(-square((inside + 0.42f) / 0.085f) - square((y - 0.425f) / 0.045f));
    c = c + Light{1.0f, 0.80f, 0.55f} * (0.85f * furnaceShine * breath) +
        Light{1.0f, 0.95f, 0.82f} * (0.42f * lampShine);
    c = c + Light{1.0f, 0.55f, 0.25f} * (0.30f * std::pow(1 - z, 3.0f) * (0.25f + 0.75f * (nx > 0 ? 1.0f : 0.3f)));
    // Still hot at the neck.
    const float heat = square(smooth(0.43f, 0.205f, y));
    c = c + Light{1.25f, 0.42f, 0.07f} * (0.95f * heat * (0.45f + 0.55f * z));
    return mix(behind, c, cover);
  }
};

}  // namespace

Clip gather() {
  return {
      "gather", 1280,
      720,      60,
      480,      [](float seconds) {
            return [scene = Scene(seconds)](float x, float y) { return scene.at(x, y); }; }};
}

}  // namespace demo
