#include "cli/slurm.h"

#include <fcntl.h>
#include <signal.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>

#include "cli/reports.h"

extern char** environ;

namespace molten {
namespace {

namespace fs = std::filesystem;

constexpr std::int64_t usualShares = 16;

/// As one word of a shell.
std::string quoted(const std::string& word) {
  std::string text = "'";
  for (const char c : word) text += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return text + "'";
}

struct Ran {
  int code = 0;
  std::string said;  ///< on standard output
};

/// A program and what it says; what it complains of goes where our own complaints go.
Result<Ran> ran(const std::vector<std::string>& words, const std::string& input) {
  int in[2], out[2];
  if (pipe2(in, O_CLOEXEC) != 0) return Error{"No pipe could be made to sbatch."};
  if (pipe2(out, O_CLOEXEC) != 0) {
    ::close(in[0]), ::close(in[1]);
    return Error{"No pipe could be made to sbatch."};
  }
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_adddup2(&actions, in[0], STDIN_FILENO);
  posix_spawn_file_actions_adddup2(&actions, out[1], STDOUT_FILENO);
  // Signals that are blocked here, to be waited for, end the other program as they should.
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  sigset_t none;
  sigemptyset(&none);
  posix_spawnattr_setsigmask(&attributes, &none);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETSIGMASK);
  std::vector<char*> arguments;
  for (const std::string& word : words) arguments.push_back(const_cast<char*>(word.c_str()));
  arguments.push_back(nullptr);
  pid_t child = 0;
  const int failed = posix_spawnp(&child, arguments[0], &actions, &attributes, arguments.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  posix_spawnattr_destroy(&attributes);
  ::close(in[0]);
  ::close(out[1]);
  Ran result;
  if (!failed) {
    // Scripts are short: they fit into the pipe.
    const bool told = write(in[1], input.data(), input.size()) == static_cast<ssize_t>(input.size());
    ::close(in[1]);
    char buffer[512];
    for (ssize_t count; (count = read(out[0], buffer, sizeof buffer)) > 0;) result.said.append(buffer, static_cast<std::size_t>(count));
    int state = 0;
    while (waitpid(child, &state, 0) < 0 && errno == EINTR) {}
    result.code = WIFEXITED(state) && told ? WEXITSTATUS(state) : 1;
  } else {
    ::close(in[1]);
  }
  ::close(out[0]);
  if (failed) return Error{words[0] + " cannot be started: " + std::strerror(failed) + ". Install Slurm's commands here, or render without --slurm."};
  return result;
}

/// One share. What fails is handed in again, twice, by Slurm's own requeue; so is what a machine took with it.
std::string shareScript(const Arguments& a, const std::string& program, const std::string& folder, std::int64_t shares) {
  return "#!/bin/sh\n" + quoted(program) + " --pieces " + quoted(folder) + " --piece \"$SLURM_ARRAY_TASK_ID/" + std::to_string(shares) +
         "\" --memory " + std::to_string(a.memoryBytes) + " --threads \"${SLURM_CPUS_ON_NODE:-1}\" --progress none && exit 0\n" +
         "if [ \"${SLURM_RESTART_COUNT:-0}\" -lt 2 ]; then scontrol requeue \"${SLURM_ARRAY_JOB_ID}_$SLURM_ARRAY_TASK_ID\" && sleep 600; fi\n"
         "exit 1\n";
}

/// What no share has brought about, for whatever reason, is made here.
std::string joinScript(const Arguments& a, const std::string& program, const std::string& folder, const std::string& output) {
  const std::string machine = " --memory " + std::to_string(a.memoryBytes) + " --threads \"${SLURM_CPUS_ON_NODE:-1}\" --progress none";
  return "#!/bin/sh\n" + quoted(program) + " --pieces " + quoted(folder) + " --piece 1/1" + machine + " || exit 1\nexec " + quoted(program) + " --join " + quoted(folder) + " -o " + quoted(output) + " --clear-pieces" + machine + "\n";
}

}  // namespace

int renderBySlurm(const Arguments& a, const RenderSettings& settings) {
  const fs::path output = fs::absolute(settings.project.output.path);
  const std::string folder = a.pieces.empty() ? piecesBeside(output.string()) : fs::absolute(a.pieces).string();
  const auto pieces = PieceFolder::make(folder, settings);
  if (!pieces) return say(Failed, pieces.error());
  const auto count = static_cast<std::int64_t>(pieces->pieces().size());
  const std::int64_t shares = std::min<std::int64_t>(count, a.shares > 0 ? a.shares : usualShares);
  std::error_code none;
  const std::string program = fs::read_symlink("/proc/self/exe", none).string(), name = output.filename().string();
  const auto submitted = [&](std::vector<std::string> words, const std::string& script) -> Result<Ran> {
    words.insert(words.begin(), "sbatch");
    words.insert(words.end(), a.slurmOptions.begin(), a.slurmOptions.end());
    auto done = ran(words, script);
    if (done && done->code != 0 && done->said.empty()) return Error{"Slurm did not take the render; it says why above. Nothing was begun."};
    return done;
  };
  const std::string log = (output.parent_path() / ("." + name + ".slurm-%A-%a.log")).string();
  const auto array = submitted({"--parsable", "--requeue", "--open-mode=append", "--array=1-" + std::to_string(shares), "--job-name=" + name, "--output=" + log},
                               shareScript(a, program, folder, shares));
  if (!array) {
    if (pieces->missing().size() == pieces->pieces().size()) PieceFolder::discard(folder);
    return say(Failed, array.error());
  }
  const std::string job = array->said.substr(0, array->said.find_first_of(";\n"));
  std::vector<std::string> words{"--parsable", "--requeue", "--dependency=afterany:" + job, "--job-name=join " + name,
                                 "--output=" + (output.parent_path() / ("." + name + ".slurm-%j.log")).string()};
  std::fprintf(stderr, "molten-render: %lld pieces in %lld shares are handed to Slurm as job %s. Watch it with  squeue --job %s\n",
               static_cast<long long>(count), static_cast<long long>(shares), job.c_str(), job.c_str());
  if (a.wait) words.insert(words.begin(), "--wait");
  const auto joining = submitted(words, joinScript(a, program, folder, output.string()));
  if (!joining) return say(Failed, joining.error());
  const std::string joiner = joining->said.substr(0, joining->said.find_first_of(";\n"));
  if (!a.wait) {
    std::printf("%s %s\n", job.c_str(), joiner.c_str());
    return Done;
  }
  // A job that was called off ends without a failure of its own.
  if (joining->code != 0 || PieceFolder::isThere(folder))
    return say(Failed, {"The render by Slurm failed, jobs " + job + " and " + joiner + "; what they said is in " + output.parent_path().string() + "/." + name +
                        ".slurm-*.log. Pieces that are whole stay in " + folder + ": the same call goes on with the others."});
  return Done;
}

}  // namespace molten
