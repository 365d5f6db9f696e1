#pragma once
// What molten-render prints: descriptions and progress.

#include <string>

#include "cli/arguments.h"
#include "core/engine/render_job.h"
#include "core/media/footage.h"

namespace molten {

std::string stagesText(std::span<const StageKind* const> kinds);
std::string stagesJson(std::span<const StageKind* const> kinds);
/// What footage or a project is, how long, and which moments it reads. Opens the sources of its stages.
std::string describeJson(const std::shared_ptr<const Footage>& footage, const Project& project);

/// How a call ends.
enum ExitCode { Done = 0, Failed = 1, WordsOff = 2 };
/// Says why, and gives the code back.
int say(int code, const Error& error);
/// The notes and findings of what was rendered.
void sayOutline(const RenderOutline& outline);
/// Says that a result took the place of files that were there; says nothing where there were none.
void sayReplaced(const RenderOutline& outline);
void sayReplaced(const std::string& path);

void printProgress(ProgressKind kind, const RenderProgress& progress);

}  // namespace molten
