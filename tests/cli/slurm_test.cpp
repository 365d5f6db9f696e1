// A render on many machines: a Slurm of the test's own, with four nodes on this machine.
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fstream>
#include <functional>
#include <sstream>

#include "core/files/read_file.h"
#include "support/clips.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

/// Processes whose environment holds this.
std::vector<pid_t> processesWith(const std::string& variable) {
  std::vector<pid_t> found;
  std::error_code none;
  for (const auto& entry : fs::directory_iterator("/proc", none)) {
    const int number = std::atoi(entry.path().filename().c_str());
    if (number <= 0) continue;
    std::ifstream in(entry.path() / "environ", std::ios::binary);
    const std::string all((std::istreambuf_iterator<char>(in)), {});
    if (('\0' + all).find('\0' + variable + '\0') != std::string::npos) found.push_back(number);
  }
  return found;
}

pid_t parentOf(pid_t process) {
  std::ifstream in("/proc/" + std::to_string(process) + "/status");
  for (std::string word; in >> word;)
    if (int parent = 0; word == "PPid:" && in >> parent) return parent;
  return process;
}

class Slurm : public ::testing::Test {
 protected:
  void SetUp() override {
    if (getuid() != 0 || test::runCommand("command -v slurmctld slurmd sbatch munged").exitCode != 0)
      GTEST_SKIP() << "slurm-wlm and munge are not installed, or this is not root, who may start them";
    for (const char* name : {"state", "log"}) fs::create_directory(folder / name);
    fs::permissions(folder.path(), fs::perms::owner_all | fs::perms::group_read | fs::perms::group_exec | fs::perms::others_read | fs::perms::others_exec);
    test::writeFile(folder / "key", std::string(128, 'k'));
    fs::permissions(folder / "key", fs::perms::owner_read | fs::perms::owner_write);
    const int port = 20'000 + static_cast<int>(getpid() % 5'000) * 8;
    std::ostringstream conf;
    conf << "ClusterName=test\nSlurmctldHost=localhost\nSlurmUser=root\nSlurmdUser=root\nAuthType=auth/munge\nAuthInfo=socket=" << (folder / "munge.sock")
         << "\nStateSaveLocation=" << (folder / "state") << "\nSlurmdSpoolDir=" << (folder / "spool-%n") << "\nSlurmctldPidFile=" << (folder / "ctld.pid")
         << "\nSlurmdPidFile=" << (folder / "slurmd-%n.pid") << "\nSlurmctldLogFile=" << (folder / "log/ctld.log") << "\nSlurmdLogFile=" << (folder / "log/%n.log")
         << "\nSlurmctldPort=" << port << "\nSlurmdTimeout=3\nMessageTimeout=3\nProctrackType=proctrack/linuxproc\nTaskPlugin=task/none\nJobAcctGatherType=jobacct_gather/none\n"
            "SchedulerType=sched/builtin\nSelectType=select/cons_tres\nMpiDefault=none\nReturnToService=2\nSlurmdParameters=config_overrides\n";
    for (int n = 1; n <= 4; ++n) conf << "NodeName=n" << n << " NodeHostname=localhost Port=" << port + n << " CPUs=1 State=UNKNOWN\n";
    conf << "PartitionName=p Nodes=ALL Default=YES MaxTime=INFINITE State=UP\n";
    test::writeFile(folder / "slurm.conf", conf.str());
    setenv("SLURM_CONF", (folder / "slurm.conf").c_str(), 1);
    begin("munged --force --key-file=" + (folder / "key") + " --socket=" + (folder / "munge.sock") + " --pid-file=" + (folder / "munge.pid") + " --log-file=" +
          (folder / "munge.log") + " --seed-file=" + (folder / "munge.seed"));
    begin("slurmctld -f " + (folder / "slurm.conf"));
    for (const char* node : {"n1", "n2", "n3", "n4"}) begin(std::string("slurmd -N ") + node + " -f " + (folder / "slurm.conf"));
    // Ready when Slurm says so, not after a while.
    ASSERT_TRUE(until([&] { return test::runCommand("sinfo -h -t idle -o %D").out == "4\n"; })) << test::runCommand("sinfo; cat " + (folder / "log/ctld.log")).out;
    test::makeNumberedClip(folder / "clip.mkv", 960, {320, 180}, "-f lavfi -i sine=f=300:d=39 -c:v libx264 -preset ultrafast -g 30 -pix_fmt yuv420p -c:a flac");
  }
  void TearDown() override {
    for (const pid_t one : processesWith("SLURM_CONF=" + (folder / "slurm.conf")))
      if (one != getpid()) kill(one, SIGKILL);
    std::ifstream in(folder / "munge.pid");
    if (int number = 0; in >> number) kill(number, SIGKILL);
    unsetenv("SLURM_CONF");
  }
  void begin(const std::string& command) {
    const auto done = test::runCommand(command);
    ASSERT_EQ(done.exitCode, 0) << command << "\n" << done.err;
  }
  static bool until(const std::function<bool()>& so) {
    for (int tries = 0; tries < 1200; ++tries) {
      if (so()) return true;
      usleep(50'000);
    }
    return false;
  }
  std::string words(const std::string& output) {
    return std::string(MOLTEN_RENDER) + " " + (folder / "clip.mkv") + " --between flow --stage time-field:back=0.4s,past-the-ends=turn-back --rate 30 -o " + (folder / output);
  }
  std::string bytesOf(const std::string& name) {
    auto all = readWhole(folder / name, std::size_t(1) << 30);
    EXPECT_TRUE(all) << name;
    return all ? *all : std::string();
  }

  test::TempFolder folder;
};

/// Eight shares on four nodes, one of which goes in the middle of it: what was its work is done by others, and the result is to
/// the byte what one machine makes.
TEST_F(Slurm, ANodeThatGoesTakesNothingWithIt) {
  ASSERT_EQ(test::runCommand(words("whole.mp4")).exitCode, 0);
  const pid_t child = fork();
  if (child == 0) {
    const std::string command = words("result.mp4") + " --slurm --shares 8 --wait --slurm-option=--partition=p 2> " + (folder / "said");
    execl("/bin/sh", "sh", "-c", command.c_str(), static_cast<char*>(nullptr));
    _exit(127);
  }
  ASSERT_TRUE(until([&] { return !processesWith("SLURMD_NODENAME=n3").empty(); }));
  // The node itself first, so that it tells nobody.
  std::ifstream in(folder / "slurmd-n3.pid");
  int daemon = 0;
  ASSERT_TRUE(in >> daemon);
  kill(daemon, SIGKILL);
  const auto there = processesWith("SLURMD_NODENAME=n3");
  for (const pid_t one : there) kill(parentOf(one), SIGKILL);
  for (const pid_t one : there) kill(one, SIGKILL);
  int state = 0;
  ASSERT_TRUE(until([&] {
    // What a node took with it may begin again after two minutes; who looks after the machines may say: now.
    std::istringstream waiting(test::runCommand("squeue -h -r -t PD -o '%i %r'").out);
    for (std::string job, why; waiting >> job >> why;)
      if (why == "BeginTime") (void)test::runCommand("scontrol update JobId=" + job + " StartTime=now");
    return waitpid(child, &state, WNOHANG) == child;
  }));
  EXPECT_TRUE(WIFEXITED(state) && WEXITSTATUS(state) == 0) << bytesOf("said") << test::runCommand("sinfo; squeue; cat " + (folder / "log/ctld.log") + "; cat " + folder.path().string() + "/.result*.log").out;
  EXPECT_NE(bytesOf("said").find("Watch it with  squeue --job"), std::string::npos) << bytesOf("said");
  EXPECT_TRUE(bytesOf("whole.mp4") == bytesOf("result.mp4"));
  EXPECT_FALSE(fs::exists(folder / ".result.mp4.pieces"));
}

/// A share whose work was ended from outside, so that it could not try again: the joining job makes it.
TEST_F(Slurm, WhatNoShareBringsAboutIsMadeAtTheEnd) {
  ASSERT_EQ(test::runCommand(words("whole.mp4")).exitCode, 0);
  const auto begun = test::runCommand(words("result.mp4") + " --slurm --shares 2");
  ASSERT_EQ(begun.exitCode, 0) << begun.err;
  const std::string job = begun.out.substr(0, begun.out.find(' '));
  ASSERT_EQ(test::runCommand("scancel " + job + "_2").exitCode, 0);
  ASSERT_TRUE(until([&] { return test::runCommand("squeue -h").out.empty(); }));
  EXPECT_TRUE(bytesOf("whole.mp4") == bytesOf("result.mp4")) << test::runCommand("cat " + folder.path().string() + "/.result*.log").out;
}

/// What cannot be done fails by one exit code, after its own tries, and says where to look.
TEST_F(Slurm, WhatFailsComesBackAsOneExitCode) {
  const auto done = test::runCommand("cd " + folder.path().string() + "; " + words("result.mp4") + " --slurm --shares 2 --wait --slurm-option=--partition=nowhere");
  EXPECT_EQ(done.exitCode, 1);
  EXPECT_NE(done.err.find("Slurm did not take the render"), std::string::npos) << done.err;
  EXPECT_FALSE(fs::exists(folder / "result.mp4"));
  EXPECT_FALSE(fs::exists(folder / ".result.mp4.pieces"));
}

}  // namespace
}  // namespace molten
