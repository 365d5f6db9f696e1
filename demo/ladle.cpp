// The ladle: far away in a wide hall it tips, and what it pours splashes into a mould.
#include <memory>
#include <vector>

#include "scene.h"

namespace demo {
namespace {

constexpr float seconds = 6;
constexpr float eyeX = 0.92f, eyeY = 0.47f;                              ///< where all that goes into the depth meets
constexpr float pivotX = 1.16f, pivotY = 0.478f;                         ///< of the ladle
constexpr float mouldX = 1.092f, mouldY = 0.655f;                        ///< the middle of the mould's upper edge
constexpr float pours = 1.75f, ends = 4.35f;                             ///< from the first drop to the last one
constexpr float fall = 1.1f;                                             ///< picture heights a second, a second

/// How much flows at a time: 0…1.
float flowAt(float s) {
  return smooth(pours, pours + 0.5f, s) * smooth(ends, ends - 0.7f, s) * (0.93f + 0.07f * std::sin(s * 23) * std::sin(s * 7.3f));
}
/// How far the ladle is tipped, in radians.
float tiltAt(float s) {
  return 1.28f * smooth(0.55f, 2.3f, s) * smooth(5.5f, 4.1f, s) + 0.012f * std::sin(s * 5.1f);
}

struct Spark {
  float x, y, px, py;  ///< where it is, and a little earlier
  float heat;          ///< 1 … 0
};

struct Scene {
  float now, flow, full, cosTilt, sinTilt, lipX, lipY, glow;
  std::vector<Spark> sparks;

  explicit Scene(float s) : now(s), flow(flowAt(s)), full(smooth(pours + 0.3f, ends, s)) {
    const float tilt = tiltAt(s);
    cosTilt = std::cos(tilt), sinTilt = std::sin(tilt);
    std::tie(lipX, lipY) = placed(-0.048f, -0.046f);
    glow = flow * (0.94f + 0.06f * std::sin(s * 31)) + 0.16f * full + 0.05f;
    constexpr int many = 150;
    for (int i = 0; i < many; ++i) {
      const float life = 0.3f + 0.5f * lot(i, 1), phase = lot(i, 2) * life;
      const int number = static_cast<int>(std::floor((s + phase) / life));
      const float age = s + phase - static_cast<float>(number) * life;
      if (lot(i, number + 9) > flowAt(s - age - 0.3f)) continue;
      const float angle = -pi / 2 + (lot(i, number + 3) - 0.5f) * 2.4f, speed = 0.08f + 0.30f * square(lot(i, number + 5));
      const auto place = [&](float t) {
        return std::pair(mouldX + std::cos(angle) * speed * t, mouldY + std::sin(angle) * speed * t + 0.38f * t * t);
      };
      Spark spark{};
      std::tie(spark.x, spark.y) = place(age);
      std::tie(spark.px, spark.py) = place(std::max(0.0f, age - 0.014f));
      if (spark.y > 0.725f) continue;
      spark.heat = square(1 - age / life);
      sparks.push_back(spark);
    }
  }

  /// A place of the ladle's own, from its pivot, in the picture.
  std::pair<float, float> placed(float u, float v) const {
    return {pivotX + cosTilt * u + sinTilt * v, pivotY - sinTilt * u + cosTilt * v};
  }

  /// Walls, floor and roof, as deep as they lie; lit by what is poured.
  Light hall(float x, float y) const {
    const float dx = x - eyeX, dy = y - eyeY;
    constexpr float floorAt = 0.60f, roofAt = 1.05f, leftAt = 1.75f, rightAt = 1.70f, endAt = 3.6f;
    const float toFloor = dy > 0 ? floorAt / dy : 99, toRoof = dy < 0 ? roofAt / -dy : 99;
    const float toSide = dx < 0 ? leftAt / -dx : dx > 0 ? rightAt / dx : 99;
    const float z = std::min({toFloor, toRoof, toSide, endAt});
    const float px = dx * z, py = dy * z;
    const float every = z - 0.55f * std::floor(z / 0.55f);  // along the depth
    Light c{0.016f, 0.016f, 0.019f};
    if (z == endAt) {
      // Tall windows at night, and brick between them.
      const float window = std::fmod(px + 10, 0.62f);
      const bool pane = window > 0.14f && window < 0.48f && py > -0.85f && py < -0.12f;
      const float bars = std::min(std::abs(std::fmod(window, 0.11f) - 0.055f), std::abs(std::fmod(py + 5, 0.14f) - 0.07f));
      c = pane ? Light{0.020f, 0.027f, 0.046f} * (bars < 0.008f ? 0.35f : 1) : Light{0.026f, 0.021f, 0.018f};
    } else if (z == toFloor) {
      const float slab = std::min(std::abs(std::fmod(px + 10, 0.4f) - 0.2f), std::abs(every - 0.27f) * 0.6f);
      c = Light{0.024f, 0.022f, 0.021f} * (0.75f + 0.25f * smooth(0.002f, 0.02f, slab)) *
          (0.94f + 0.06f * std::sin(px * 31 + std::sin(z * 17) * 2));
    } else if (z == toRoof) {
      const float beam = smooth(0.10f, 0.07f, std::abs(every - 0.2f));
      c = Light{0.010f, 0.010f, 0.012f} * (1 - 0.6f * beam);
    } else {
      const float column = smooth(0.09f, 0.07f, std::abs(every - 0.28f));
      const float brick = 0.9f + 0.1f * std::sin(py * 60) * std::sin(z * 40);
      c = mix(Light{0.021f, 0.018f, 0.017f} * brick, Light{0.010f, 0.010f, 0.011f}, column);
    }
    // The pour stands well before the end wall.
    constexpr float lightZ = 3.1f;
    const float lx = (mouldX - eyeX) * lightZ, ly = (mouldY - 0.05f - eyeY) * lightZ;
    const float away = square(px - lx) + square(py - ly) + square(z - lightZ);
    c = c + Light{1.9f, 0.85f, 0.28f} * c * (glow * 11 / (0.30f + 2.2f * away));
    // A few lamps along the roof.
    return c * (0.75f + 0.5f / (0.6f + square(z - 1.3f)));
  }

  void addCrane(Light& c, float x, float y) const {
    const Light iron = Light{0.011f, 0.011f, 0.012f} + Light{0.10f, 0.045f, 0.014f} * (glow * smooth(0.3f, 0.0f, std::abs(y - pivotY)));
    // The girder that it hangs from, the ropes, the hook's beam, and two arms to the pivot.
    if (x > 0.50f) c = mix(c, iron, smooth(0.0145f, 0.0125f, std::abs(y - 0.262f)));
    const float rope = std::min(std::abs(x - pivotX + 0.012f), std::abs(x - pivotX - 0.012f));
    if (y > 0.262f && y < 0.402f) c = mix(c, iron, smooth(0.0022f, 0.0010f, rope));
    if (std::abs(x - pivotX) < 0.064f) c = mix(c, iron, smooth(0.0070f, 0.0055f, std::abs(y - 0.402f)));
    const float arm = std::abs(std::abs(x - pivotX) - 0.058f);
    if (y > 0.402f && y < pivotY + 0.006f) c = mix(c, iron, smooth(0.0045f, 0.0030f, arm));
  }

  /// Someone stands by, well away from the splash, with a rod.
  void addWorker(Light& c, float x, float y) const {
    const float middle = x - 0.952f, head = std::hypot(middle - 0.001f, (y - 0.611f) * 0.85f);
    const float torso = std::abs(middle) - 0.0125f + 0.010f * smooth(0.632f, 0.622f, y) + 0.003f * smooth(0.64f, 0.665f, y);
    const float leg = std::abs(std::abs(middle) - 0.0055f) - 0.0042f;
    const float side = y < 0.672f ? torso : leg;
    const float body = y > 0.620f && y < 0.722f ? smooth(0.0012f, -0.0012f, side) : 0;
    const float along = std::clamp((x - 0.962f) / 0.052f, 0.0f, 1.0f), rod = std::hypot(x - 0.962f - 0.052f * along, y - 0.652f + 0.012f * along);
    c = mix(c, Light{0.005f, 0.005f, 0.006f} + Light{0.22f, 0.085f, 0.022f} * (glow * 0.5f * smooth(0.002f, 0.014f, middle)),
            std::max({body, smooth(0.0085f, 0.0070f, head), smooth(0.0019f, 0.0009f, rod)}));
  }

  void addLadle(Light& c, float x, float y) const {
    const float dx = x - pivotX, dy = y - pivotY;
    const float u = cosTilt * dx - sinTilt * dy, v = sinTilt * dx + cosTilt * dy;
    // Wide at the rim, narrower at the foot, with a lip to one side.
    const float half = 0.047f - 0.010f * (v + 0.046f) / 0.1f;
    const float side = std::abs(u) - half, end = std::abs(v - 0.004f) - 0.050f;
    const float within = smooth(0.0014f, -0.0014f, std::max(side, end));
    const float band = smooth(0.004f, 0.0025f, std::min(std::abs(v + 0.022f), std::abs(v - 0.030f)));
    Light iron = Light{0.020f, 0.018f, 0.018f} * (0.7f + 0.5f * smooth(0.05f, -0.05f, u)) * (1 - 0.4f * band);
    iron = iron + Light{0.75f, 0.27f, 0.06f} * (0.16f * smooth(0.0f, -0.05f, v) + 0.30f * glow * smooth(0.02f, -0.06f, u));
    c = mix(c, iron, within);
    // What is in it shines at the rim, and over it once it is tipped.
    const float rim = smooth(0.0042f, 0.0010f, std::abs(v + 0.0465f)) * smooth(0.047f, 0.043f, std::abs(u));
    c = c + Light{2.3f, 0.95f, 0.22f} * (rim * (0.55f + 0.45f * smooth(0.1f, 0.9f, sinTilt)));
    c = c + Light{0.55f, 0.20f, 0.05f} * (0.30f * square(smooth(0.10f, 0.0f, std::hypot(x - lipX, y - lipY))) * smooth(0.2f, 0.8f, sinTilt));
  }

  void addPour(Light& c, float x, float y) const {
    if (y > lipY - 0.004f && y < mouldY + 0.004f && flow > 0.002f) {
      const float t = std::sqrt(std::max(0.0f, 2 * (y - lipY) / fall));
      // What is below left earlier.
      const float was = flowAt(now - t), ripple = std::sin(y * 95 - now * 61) + 0.6f * std::sin(y * 190 - now * 97);
      const float middle = lipX + (mouldX - lipX) * t / std::sqrt(2 * (mouldY - lipY) / fall) + 0.0006f * ripple;
      const float wide = (0.0085f * was + 0.0012f) / (1 + 0.9f * t) * (1 + 0.10f * ripple);
      if (was > 0.01f) {
        const float off = std::abs(x - middle);
        c = mix(c, Light{3.4f, 1.75f, 0.55f} * (0.85f + 0.15f * ripple * 0.5f), smooth(wide, wide * 0.55f, off));
        c = c + Light{0.9f, 0.34f, 0.08f} * (was * 0.55f * square(smooth(0.05f, 0.0f, off)));
      }
    }
    // The mould, filling.
    const float side = std::abs(x - mouldX) - 0.046f;
    if (y > mouldY - 0.002f && y < 0.725f) {
      const Light box = Light{0.014f, 0.012f, 0.012f} + Light{0.30f, 0.10f, 0.02f} * (full * smooth(0.725f, mouldY, y));
      c = mix(c, box, smooth(0.0015f, -0.0015f, side));
    }
    const float surface = smooth(0.0050f, 0.0018f, std::abs(y - mouldY)) * smooth(0.042f, 0.036f, std::abs(x - mouldX));
    c = c + Light{2.6f, 1.1f, 0.26f} * (surface * smooth(0.0f, 0.25f, full));
    const float splash = std::hypot((x - mouldX) * 0.8f, y - mouldY);
    c = c + Light{2.4f, 1.3f, 0.45f} * (flowAt(now - 0.5f) * square(smooth(0.038f, 0.0f, splash)));
    c = c + Light{0.45f, 0.17f, 0.04f} * (glow * 0.5f * square(smooth(0.26f, 0.0f, splash)));
  }

  Light at(float x, float y) const {
    Light c = hall(x, y);
    addCrane(c, x, y);
    addWorker(c, x, y);
    addPour(c, x, y);
    addLadle(c, x, y);
    if (std::abs(x - mouldX) > 0.32f || y < 0.4f || y > 0.74f) return c;
    for (const Spark& spark : sparks) {
      const float sx = spark.px - spark.x, sy = spark.py - spark.y, l = std::max(1e-9f, sx * sx + sy * sy);
      const float k = std::clamp(((x - spark.x) * sx + (y - spark.y) * sy) / l, 0.0f, 1.0f);
      const float d = std::sqrt(square(x - spark.x - k * sx) + square(y - spark.y - k * sy));
      c = c + mix(Light{1.1f, 0.30f, 0.05f}, Light{3.4f, 2.2f, 1.0f}, spark.heat) *
                  (smooth(0.0019f, 0.0006f, d) * (0.3f + 0.7f * spark.heat) * (1 - 0.6f * k));
    }
    return c;
  }
};

}  // namespace

Clip ladle() {
  return {"ladle", 1280, 720, 60, static_cast<int>(seconds * 60), [](float s) {
            return [scene = std::make_shared<const Scene>(s)](float x, float y) { return scene->at(x, y); };
          }};
}

}  // namespace demo
