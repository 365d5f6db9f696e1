#pragma once
// What the drawn clips share: colours as linear light, smooth edges, and the way to a file.

#include <algorithm>
#include <cmath>
#include <functional>
#include <string>
#include <utility>

namespace demo {

struct Light {
  float r = 0, g = 0, b = 0;
  friend Light operator+(Light p, Light q) { return {p.r + q.r, p.g + q.g, p.b + q.b}; }
  friend Light operator*(Light a, float k) { return {a.r * k, a.g * k, a.b * k}; }
  friend Light operator*(Light p, Light q) { return {p.r * q.r, p.g * q.g, p.b * q.b}; }
};

inline Light mix(Light a, Light b, float k) {
  return a * (1 - k) + b * k;
}
inline float smooth(float from, float to, float x) {
  const float t = std::clamp((x - from) / (to - from), 0.0f, 1.0f);
  return t * t * (3 - 2 * t);
}
inline float square(float x) {
  return x * x;
}
constexpr float pi = 3.14159265f;
/// By lot, 0…1: the same for the same two numbers.
inline float lot(int a, int b) {
  const float v = std::sin(static_cast<float>(a) * 127.1f + static_cast<float>(b) * 311.7f) * 43758.55f;
  return v - std::floor(v);
}

/// A clip: the light at a place of the picture (0…1 down, the same unit across) at a time in seconds.
struct Clip {
  std::string name;
  int width, height, fps, frames;
  std::function<std::function<Light(float x, float y)>(float seconds)> at;
};

Clip gather();
Clip tour();
Clip trolley();
Clip yard();
Clip sparks();
Clip ladle();
Clip inspector();
Clip poses();

/// The inspector without the cloth at a time in seconds: light, and how much of a place is covered. What a key ought to find.
std::function<std::pair<Light, float>(float x, float y)> inspectorAlone(float seconds);

/// Writes the projects into the folder where the clips are. Says what goes wrong.
bool writeProjects(const std::string& folder);

}  // namespace demo
