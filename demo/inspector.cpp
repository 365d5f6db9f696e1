// The inspector: before a plain green cloth a figure walks in, turns to the camera, and points.
#include <array>
#include <memory>

#include "scene.h"

namespace demo {
namespace {

constexpr float seconds = 8, arrives = 3.4f, turnsBy = 4.4f, points = 5.2f;
constexpr float ground = 0.90f, tall = 0.66f;  ///< where the soles stand, and how far above it the top of the hat is

struct Joint {
  float x, y;
};
Joint mid(Joint a, Joint b, float k) {
  return {a.x + (b.x - a.x) * k, a.y + (b.y - a.y) * k};
}

/// How far inside a limb a place is, in picture heights; below 0: outside. As thick at its ends as told.
float inLimb(float x, float y, Joint a, Joint b, float thickA, float thickB) {
  const float dx = b.x - a.x, dy = b.y - a.y, k = std::clamp(((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy + 1e-9f), 0.0f, 1.0f);
  return thickA + (thickB - thickA) * k - std::hypot(x - a.x - dx * k, y - a.y - dy * k);
}
float inEllipse(float x, float y, Joint centre, float wide, float high) {
  const float far = std::hypot((x - centre.x) / wide, (y - centre.y) / high);
  return (1 - far) * std::min(wide, high);
}

/// The joints of the figure at a moment.
struct Pose {
  Joint hip, neck, head;
  std::array<Joint, 2> knee, foot, elbow, hand;
  float facing;  ///< 0: from the side, 1: to the camera

  explicit Pose(float s) {
    const float way = smooth(0, arrives, s) * 0.35f + std::clamp(s / arrives, 0.0f, 1.0f) * 0.65f;
    const float walks = 1 - smooth(arrives - 0.5f, arrives + 0.1f, s), steps = s * 2 * pi * 0.95f;
    facing = smooth(arrives + 0.1f, turnsBy, s);
    const float x = -0.16f + 1.02f * way, sway = 0.004f * std::sin(s * 1.7f);
    const float bob = 0.008f * walks * std::cos(2 * steps);
    hip = {x + sway * 0.5f, ground - 0.47f * tall + bob};
    neck = {x + 0.012f * (1 - facing) + sway, ground - 0.82f * tall + bob};
    head = {neck.x + 0.006f * (1 - facing), neck.y - 0.062f};
    const float aims = smooth(points, points + 0.55f, s) * smooth(7.6f, 7.1f, s);
    for (int i = 0; i < 2; ++i) {
      const auto leg = static_cast<std::size_t>(i);
      const float side = i == 0 ? -1.0f : 1.0f, swing = walks * std::sin(steps + (i ? pi : 0));
      const float apart = 0.030f * facing * side;
      const float lift = walks * std::max(0.0f, std::cos(steps + (i ? pi : 0))) * 0.035f;
      foot[leg] = {hip.x + 0.095f * swing + apart * 1.5f, ground - lift};
      knee[leg] = mid(hip, foot[leg], 0.5f);
      knee[leg].x += 0.018f * walks * (1 + swing) + apart * 0.3f;
      const Joint shoulder = shoulderAt(i);
      hand[leg] = {shoulder.x - 0.075f * swing + 0.018f * side * facing, shoulder.y + 0.235f};
      elbow[leg] = mid(shoulder, hand[leg], 0.5f);
      elbow[leg].x -= 0.016f * (1 - facing);
      if (i == 1) {
        // What is pointed at lies up on the right.
        const Joint out{shoulder.x + 0.215f, shoulder.y - 0.070f + 0.006f * std::sin(s * 9)};
        hand[leg] = mid(hand[leg], out, aims);
        elbow[leg] = mid(elbow[leg], mid(shoulder, out, 0.52f), aims);
      }
    }
  }
  Joint shoulderAt(int side) const {
    return {neck.x + (side ? 1.0f : -1.0f) * 0.050f * facing, neck.y + 0.034f};
  }
};

struct Scene {
  Pose pose;
  explicit Scene(float s) : pose(s) {}

  /// Of the figure, with how much of a place it covers.
  std::pair<Light, float> figure(float x, float y) const {
    // No limb reaches farther.
    if (std::abs(x - pose.hip.x) > 0.36f || y < pose.head.y - 0.09f || y > ground + 0.02f) return {{}, 0};
    constexpr float soft = 0.0013f;
    Light colour{};
    float covered = 0;
    const auto lay = [&](float inside, Light own) {
      const float k = smooth(-soft, soft, inside);
      // Lit from the left and from above, round at its edges.
      const float round = 0.62f + 0.38f * smooth(0.0f, 0.022f, inside);
      colour = mix(colour, own * round, k);
      covered = std::max(covered, k);
    };
    const Light coat{0.060f, 0.058f, 0.072f}, trousers{0.030f, 0.029f, 0.032f}, skin{0.46f, 0.27f, 0.18f},
        leather{0.045f, 0.026f, 0.016f}, felt{0.10f, 0.028f, 0.024f}, brass{0.62f, 0.42f, 0.13f};
    const Pose& p = pose;
    const auto arm = [&](int side) {
      const auto i = static_cast<std::size_t>(side);
      const Joint shoulder = p.shoulderAt(side);
      lay(inLimb(x, y, shoulder, p.elbow[i], 0.022f, 0.018f), coat * (side ? 1.15f : 0.8f));
      lay(inLimb(x, y, p.elbow[i], p.hand[i], 0.018f, 0.014f), coat * (side ? 1.2f : 0.85f));
      lay(inEllipse(x, y, p.hand[i], 0.0145f, 0.0145f), skin * (side ? 1.0f : 0.8f));
      const Joint tip = mid(p.elbow[i], p.hand[i], 1.22f);
      lay(inLimb(x, y, p.hand[i], tip, 0.0055f, 0.0040f), skin * (side ? 1.0f : 0.8f));
    };
    arm(0);
    for (std::size_t i = 0; i < 2; ++i) {
      const Light own = trousers * (i ? 1.15f : 0.8f);
      lay(inLimb(x, y, p.hip, p.knee[i], 0.034f, 0.024f), own);
      lay(inLimb(x, y, p.knee[i], p.foot[i], 0.024f, 0.015f), own);
      lay(inLimb(x, y, {p.foot[i].x - 0.010f, p.foot[i].y - 0.004f}, {p.foot[i].x + 0.026f - 0.016f * p.facing, p.foot[i].y - 0.004f}, 0.012f, 0.010f), leather);
    }
    const float broad = 0.040f + 0.018f * p.facing;
    lay(inLimb(x, y, {p.neck.x, p.neck.y + 0.045f}, {p.hip.x, p.hip.y + 0.055f}, broad, broad * 0.94f), coat);
    // A row of buttons, and a book under the arm that hangs.
    for (int b = 0; b < 4; ++b)
      lay(inEllipse(x, y, {p.neck.x + 0.022f * (1 - p.facing), p.neck.y + 0.062f + 0.045f * static_cast<float>(b)}, 0.0042f, 0.0042f), brass);
    lay(inLimb(x, y, {p.head.x, p.head.y + 0.03f}, {p.neck.x, p.neck.y + 0.024f}, 0.015f, 0.018f), skin * 0.85f);
    lay(inEllipse(x, y, p.head, 0.036f, 0.045f), skin);
    // The face looks to where it goes, then at us.
    lay(inEllipse(x, y, {p.head.x + 0.033f * (1 - p.facing), p.head.y + 0.006f}, 0.010f, 0.008f), skin);
    for (const float side : {-1.0f, 1.0f})
      lay(inEllipse(x, y, {p.head.x + 0.014f * side * p.facing + 0.020f * (1 - p.facing), p.head.y - 0.002f}, 0.0040f, 0.0050f), Light{0.01f, 0.01f, 0.012f});
    lay(inLimb(x, y, {p.head.x - 0.050f, p.head.y - 0.022f}, {p.head.x + 0.054f, p.head.y - 0.024f}, 0.0065f, 0.0060f), felt);
    lay(inLimb(x, y, {p.head.x - 0.020f, p.head.y - 0.044f}, {p.head.x + 0.020f, p.head.y - 0.044f}, 0.025f, 0.024f), felt * 1.2f);
    arm(1);
    // Loose hair under the brim, thin enough to be half covered.
    for (int h = 0; h < 7; ++h) {
      const float at = -0.036f + 0.0022f * static_cast<float>(h) * (1 - 0.5f * p.facing);
      lay(inLimb(x, y, {p.head.x + at, p.head.y - 0.016f}, {p.head.x + at - 0.008f + 0.002f * static_cast<float>(h), p.head.y + 0.046f}, 0.0016f, 0.0007f), Light{0.05f, 0.024f, 0.012f});
    }
    return {colour, covered};
  }

  /// The cloth: hung in wide folds, a little darker to its edges.
  Light cloth(float x, float y) const {
    const float fold = 1 + 0.035f * std::sin(x * 23 + 0.6f * std::sin(y * 3)) + 0.02f * std::sin(x * 61 + y * 2);
    const float away = square((x - 0.89f) / 1.1f) + square((y - 0.45f) / 0.8f);
    Light c = Light{0.045f, 0.30f, 0.075f} * (fold * (1.04f - 0.22f * away));
    // Along the floor it is lit from above, and the figure's shadow lies on it.
    if (y > 0.86f) c = c * (1 + 0.10f * smooth(0.86f, 0.93f, y));
    const float shade = std::hypot((x - pose.hip.x - 0.02f) / 0.15f, (y - ground - 0.005f) / 0.022f);
    return c * (1 - 0.32f * smooth(1.15f, 0.2f, shade));
  }

  Light at(float x, float y) const {
    const auto [own, covered] = figure(x, y);
    // Green light from the cloth comes round the edges.
    const Light spill = Light{0.004f, 0.022f, 0.006f};
    return mix(cloth(x, y), own + spill, covered);
  }
};

}  // namespace

std::function<std::pair<Light, float>(float x, float y)> inspectorAlone(float s) {
  return [scene = std::make_shared<const Scene>(s)](float x, float y) { return scene->figure(x, y); };
}

Clip inspector() {
  return {"inspector", 1280, 720, 30, static_cast<int>(seconds * 30), [](float s) {
            return [scene = std::make_shared<const Scene>(s)](float x, float y) { return scene->at(x, y); };
          }};
}

}  // namespace demo
