// Files, read whole and written whole: the one reader of untrusted bytes and the one safe writer.
#pragma once
#include "base/problem.h"
#include <filesystem>
#include <string>

namespace lp {

/// Largest file taken into memory, packed or unpacked: a guard against bombs.
inline constexpr uint64_t largest_file_bytes = 1ull << 31;

/// A file's name in quotes, for sentences.
std::string quoted(const std::filesystem::path& path);
/// The ending in lower case without its dot: "stl".
std::string ending_of(const std::filesystem::path& path);

/// Whole contents of a file; refused when it is missing, a folder, or too large.
Expected<std::string> read_file(const std::filesystem::path& path);
/// Writes beside the target, syncs, renames: the old file stays whole whatever happens, and nothing is left beside it
/// on failure.
std::optional<Problem> write_file_safely(const std::filesystem::path& path, const std::string& bytes);
/// Takes away what writes to files of that name (empty: any) in the folder left beside them when their process ended in
/// the middle. What a process that still runs is writing stays.
void remove_cut_short(const std::filesystem::path& folder, const std::string& name = {});

/// A file name without anything a file system might mind: "Rain gauge, 2" is "Rain-gauge-2".
std::string file_name_of(const std::string& part_name);

} // namespace lp
