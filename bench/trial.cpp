#include "trial.h"

#include <fcntl.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>

namespace molten::bench {
namespace {

double secondsOf(const timeval& time) {
  return static_cast<double>(time.tv_sec) + static_cast<double>(time.tv_usec) / 1e6;
}

template <class Value>
std::vector<double> each(const std::vector<Run>& runs, Value value) {
  std::vector<double> all;
  for (const Run& run : runs) all.push_back(value(run));
  return all;
}

Spread ratios(const std::vector<Run>& a, const std::vector<Run>& b, double Run::*value) {
  std::vector<double> all;
  for (std::size_t i = 0; i < a.size(); ++i) all.push_back(a[i].*value / std::max(1e-9, b[i].*value));
  return spreadOf(all);
}

}  // namespace

Run run(const Words& words, const std::string& output) {
  std::vector<char*> arguments;
  for (const auto& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, 0, "/dev/null", O_RDONLY, 0);
  posix_spawn_file_actions_addopen(&actions, 1, output.c_str(), O_WRONLY | O_CREAT | O_TRUNC, 0644);
  posix_spawn_file_actions_adddup2(&actions, 1, 2);
  const auto begun = std::chrono::steady_clock::now();
  pid_t child = 0;
  int status = -1;
  rusage usage{};
  if (posix_spawnp(&child, arguments[0], &actions, nullptr, arguments.data(), environ) == 0)
    wait4(child, &status, 0, &usage);
  posix_spawn_file_actions_destroy(&actions);
  if (status != 0) {
    std::string call;
    for (const auto& word : words) call += word + " ";
    std::printf("failed: %s\n", call.c_str());
    std::exit(1);
  }
  return {std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count(),
          secondsOf(usage.ru_utime) + secondsOf(usage.ru_stime), static_cast<double>(usage.ru_maxrss) / 1024};
}

Spread spreadOf(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return {values.front(), values[values.size() / 2], values.back()};
}

Pairs::Pairs(const Words& a, const Words& b, int times) {
  for (int i = 0; i < times; ++i) {
    a_.push_back(run(a));
    b_.push_back(run(b));
  }
}

Spread Pairs::processor() const {
  return ratios(a_, b_, &Run::processor);
}
Spread Pairs::seconds() const {
  return ratios(a_, b_, &Run::seconds);
}
double Pairs::secondsOf(bool first) const {
  return spreadOf(each(first ? a_ : b_, [](const Run& run) { return run.seconds; })).middle;
}
double Pairs::processorOf(bool first) const {
  return spreadOf(each(first ? a_ : b_, [](const Run& run) { return run.processor; })).middle;
}

}  // namespace molten::bench
