#include "base/files.h"
#include "base/text.h"
#include <cctype>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <fcntl.h>
#include <fstream>
#include <unistd.h>

namespace lp {
namespace fs = std::filesystem;

std::string quoted(const fs::path& path) {
    std::string text = "\"";
    return text.append(path.filename().string()).append("\"");
}

std::string ending_of(const fs::path& path) {
    std::string text = in_lower_case(path.extension().string());
    return text.empty() ? text : text.substr(1);
}

Expected<std::string> read_file(const fs::path& path) {
    std::error_code error;
    if (fs::is_directory(path, error))
        return problem(ProblemCode::File, quoted(path) + " is a folder.", "Choose a file in it.");
    if (!fs::exists(path, error))
        return problem(ProblemCode::File, quoted(path) + " is not there.", "Check the name and the folder.");
    auto size = fs::file_size(path, error);
    if (!error && size > largest_file_bytes)
        return problem(ProblemCode::File, quoted(path) + " is larger than 2 GB.", "Simplify it first.");
    std::ifstream file(path, std::ios::binary);
    if (!file) return problem(ProblemCode::File, quoted(path) + " cannot be opened.", "Check that you may read it.");
    std::string bytes;
    if (!error) bytes.reserve(size);
    char block[1 << 16];
    while (file.read(block, sizeof block) || file.gcount() > 0) {
        bytes.append(block, size_t(file.gcount()));
        if (bytes.size() > largest_file_bytes)
            return problem(ProblemCode::File, quoted(path) + " does not end.", "Choose a plain file.");
    }
    if (file.bad())
        return problem(ProblemCode::File, quoted(path) + " stops being readable part-way.",
                       "Copy it to this machine first.");
    return bytes;
}

void remove_cut_short(const fs::path& folder, const std::string& name) {
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(folder.empty() ? fs::path(".") : folder, error)) {
        const std::string file = entry.path().filename().string();
        const size_t at = file.rfind(".part");
        if (at == std::string::npos || (!name.empty() && file.substr(0, at) != name)) continue;
        const long process = whole_number(file.substr(at + 5));
        if (process <= 0 || ::kill(pid_t(process), 0) == 0 || errno != ESRCH) continue;
        fs::remove(entry.path(), error);
    }
}

std::optional<Problem> write_file_safely(const fs::path& path, const std::string& bytes) {
    fs::path beside = path;
    beside += ".part" + std::to_string(getpid());
    auto fail = [&](const std::string& why) {
        ::unlink(beside.c_str());
        return Problem{ProblemCode::File, quoted(path) + " could not be written" + why + ".",
                       "Check the folder and the room on the disk."};
    };
    int file = ::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (file < 0) return fail("");
    size_t done = 0;
    while (done < bytes.size()) {
        ssize_t n = ::write(file, bytes.data() + done, bytes.size() - done);
        if (n <= 0) {
            ::close(file);
            return fail(": the disk is full or gone");
        }
        done += size_t(n);
    }
    bool synced = ::fsync(file) == 0;
    if (::close(file) != 0 || !synced) return fail("");
    if (::rename(beside.c_str(), path.c_str()) != 0) return fail("");
    remove_cut_short(path.parent_path(), path.filename().string());
    return std::nullopt;
}

std::string file_name_of(const std::string& name) {
    std::string result;
    for (char c : name) {
        auto u = static_cast<unsigned char>(c);
        if (std::isalnum(u) || c == '-' || c == '_' || u >= 0x80)
            result += c;
        else if (!result.empty() && result.back() != '-')
            result += '-';
    }
    while (!result.empty() && result.back() == '-') result.pop_back();
    return result.empty() ? "part" : result;
}

} // namespace lp
