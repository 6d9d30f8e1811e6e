#include "project/archive.h"
#include "base/files.h"
#include "formats/zip_package.h"
#include "project/project_json.h"
#include <csignal>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>
#include <unistd.h>
#include <zip.h>

namespace lp {
namespace fs = std::filesystem;
using nlohmann::json;
namespace {

/// An import's name must stay inside imports/.
bool safe_name(const std::string& name) {
    return !name.empty() && name.size() < 200 && name != "." && name != ".." && name.find('/') == std::string::npos &&
           name.find('\\') == std::string::npos && name.find('\0') == std::string::npos;
}

Expected<std::string> read_entry(zip_t* archive, const std::string& name) {
    zip_stat_t stat;
    zip_stat_init(&stat);
    if (zip_stat(archive, name.c_str(), 0, &stat) != 0)
        return problem(ProblemCode::File, "There is no " + name + " in it.",
                       "It may be cut off; look for its backup (.loosepeg~).");
    if (!(stat.valid & ZIP_STAT_SIZE) || stat.size > largest_file_bytes)
        return problem(ProblemCode::File, name + " in it claims to be larger than 2 GB.", "This is no project file.");
    zip_file_t* file = zip_fopen(archive, name.c_str(), 0);
    if (!file) return problem(ProblemCode::File, name + " in it cannot be read.", "Look for its backup (.loosepeg~).");
    // Grown as it is read: the claimed size is only a claim.
    std::string bytes;
    char block[65536];
    zip_int64_t got;
    while ((got = zip_fread(file, block, sizeof block)) > 0) {
        bytes.append(block, size_t(got));
        if (bytes.size() > stat.size) break;
    }
    zip_fclose(file);
    if (got < 0 || bytes.size() != stat.size)
        return problem(ProblemCode::File, name + " in it is damaged.", "Look for its backup (.loosepeg~).");
    return bytes;
}

Expected<std::string> pack_history(const History& history, const std::string& preview_png, const json& more = {}) {
    const Project& now = *history.now();
    json project = project_to_json(now);
    json entries = json::array();
    // Neighbouring snapshots differ in a line or two: each is kept as the difference from the one before.
    json before;
    for (const HistoryEntry& entry : history.entries()) {
        json its = project_to_json(*entry.project);
        json item{{"sentence", entry.sentence}};
        if (before.is_null())
            item["project"] = its;
        else
            item["change"] = json::diff(before, its);
        before = std::move(its);
        entries.push_back(std::move(item));
    }
    json history_json{{"entries", entries}, {"at", history.position()}};
    if (more.is_object()) history_json.update(more);
    std::vector<std::pair<std::string, std::string>> files{{"project.json", project.dump(1)},
                                                           {"history.json", history_json.dump()}};
    std::map<std::string, std::shared_ptr<const std::string>> imports;
    for (const HistoryEntry& entry : history.entries())
        for (const auto& [name, bytes] : entry.project->imports)
            if (bytes) imports[name] = bytes;
    for (const auto& [name, bytes] : imports) files.push_back({"imports/" + name, *bytes});
    if (!preview_png.empty()) files.push_back({"preview.png", preview_png});
    return pack_zip(files);
}

void attach_imports(Project& project, const std::map<std::string, std::shared_ptr<const std::string>>& files) {
    for (auto& [name, bytes] : project.imports)
        if (auto found = files.find(name); found != files.end()) bytes = found->second;
}

Expected<Opened> open_bare(const fs::path& path, const std::string& text) {
    auto project = project_from_text(text);
    if (!project) return pass_on(project);
    Opened opened;
    opened.bare = true;
    std::map<std::string, std::shared_ptr<const std::string>> files;
    for (const auto& [name, bytes] : project->imports) {
        if (!safe_name(name))
            return problem(ProblemCode::File, "The import \"" + name + "\" names a place outside the project.",
                           "Put the file beside project.json.");
        fs::path beside = path.parent_path() / name, below = path.parent_path() / "imports" / name;
        auto contents = read_file(fs::exists(below) ? below : beside);
        if (contents)
            files[name] = std::make_shared<const std::string>(std::move(*contents));
        else
            opened.notes.push_back(contents.error().text());
    }
    attach_imports(*project, files);
    opened.history = History(std::make_shared<const Project>(std::move(*project)));
    return opened;
}

/// The history is a comfort: a damaged one is dropped with a note, never the project with it.
std::optional<History> read_history(zip_t* archive, const Project& now,
                                    const std::map<std::string, std::shared_ptr<const std::string>>& files) {
    auto text = read_entry(archive, "history.json");
    if (!text) return std::nullopt;
    try {
        json parsed = json::parse(*text);
        std::vector<HistoryEntry> entries;
        json before;
        for (const json& item : parsed.at("entries")) {
            if (entries.size() >= History::longest) return std::nullopt;
            json its = item.contains("project") ? item.at("project") : before.patch(item.at("change"));
            auto project = project_from_json(its);
            if (!project) return std::nullopt;
            attach_imports(*project, files);
            entries.push_back({std::make_shared<const Project>(std::move(*project)), item.value("sentence", "")});
            before = std::move(its);
        }
        auto at = parsed.value("at", size_t(0));
        if (entries.empty() || at >= entries.size()) return std::nullopt;
        if (project_to_json(*entries[at].project) != project_to_json(now)) return std::nullopt;
        return History::from_entries(std::move(entries), at);
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

Expected<Opened> open_zip(const fs::path& path, const std::string& bytes) {
    const ZipArchive archive = zip_archive(bytes, true);
    if (!archive)
        return problem(ProblemCode::File, quoted(path) + " is damaged or cut off.",
                       "Look for its backup (" + path.filename().string() + "~).");
    auto text = read_entry(archive.get(), "project.json");
    if (!text) return pass_on(text);
    auto project = project_from_text(*text);
    if (!project) return pass_on(project);
    Opened opened;
    std::map<std::string, std::shared_ptr<const std::string>> files;
    uint64_t total = 0;
    for (zip_int64_t i = 0, n = zip_get_num_entries(archive.get(), 0); i < n; ++i) {
        const char* name = zip_get_name(archive.get(), zip_uint64_t(i), 0);
        std::string entry = name ? name : "";
        if (entry.rfind("imports/", 0) != 0 || !safe_name(entry.substr(8))) continue;
        auto contents = read_entry(archive.get(), entry);
        if (!contents) {
            opened.notes.push_back(contents.error().text());
            continue;
        }
        total += contents->size();
        if (total > largest_file_bytes)
            return problem(ProblemCode::File, quoted(path) + " unpacks to more than 2 GB.", "This is no project file.");
        files[entry.substr(8)] = std::make_shared<const std::string>(std::move(*contents));
    }
    attach_imports(*project, files);
    for (const auto& [name, contents] : project->imports)
        if (!contents) opened.notes.push_back("The file \"" + name + "\" is missing in the project.");
    if (auto history = read_history(archive.get(), *project, files))
        opened.history = std::move(*history);
    else
        opened.history = History(std::make_shared<const Project>(std::move(*project)));
    return opened;
}

} // namespace

std::optional<Problem> save_project(const fs::path& path, const History& history, const std::string& preview_png) {
    auto bytes = pack_history(history, preview_png);
    if (!bytes) return bytes.error();
    std::error_code error;
    fs::path backup = path;
    backup += "~";
    if (fs::exists(path, error)) {
        // A link keeps the old file reachable under both names until the new one takes its place.
        fs::remove(backup, error);
        fs::create_hard_link(path, backup, error);
        if (error) fs::copy_file(path, backup, fs::copy_options::overwrite_existing, error);
    }
    return write_file_safely(path, *bytes);
}

Expected<std::string> project_to_bytes(const Project& project) {
    return pack_history(History(std::make_shared<const Project>(project)), {});
}

Expected<Project> project_from_bytes(const std::string& bytes) {
    if (bytes.rfind("PK", 0) != 0)
        return problem(ProblemCode::File, "That is no Loose Peg project.", "Copy a part in its window first.");
    auto opened = open_zip("what was copied", bytes);
    if (!opened) return pass_on(opened);
    return *opened->history.now();
}

Expected<Opened> open_project(const fs::path& path) {
    auto bytes = read_file(path);
    if (!bytes) return pass_on(bytes);
    if (bytes->empty())
        return problem(ProblemCode::File, quoted(path) + " is empty.",
                       "Look for its backup (" + path.filename().string() + "~).");
    if (bytes->rfind("PK", 0) == 0) return open_zip(path, *bytes);
    size_t first = bytes->find_first_not_of(" \t\r\n\xEF\xBB\xBF");
    if (first != std::string::npos && (*bytes)[first] == '{') return open_bare(path, *bytes);
    return problem(ProblemCode::File, quoted(path) + " is no Loose Peg project.",
                   "Open a .loosepeg file or a project.json; meshes are brought in.");
}

/// When a process began, in ticks since the machine did: with its number it tells it from all others. Empty when it is
/// not running.
static std::string began(long pid) {
    std::ifstream file("/proc/" + std::to_string(pid) + "/stat");
    std::string text((std::istreambuf_iterator<char>(file)), {});
    size_t after_name = text.rfind(')');
    if (after_name == std::string::npos) return {};
    std::istringstream fields(text.substr(after_name + 1));
    std::string field;
    fields >> field;
    if (field == "Z" || field == "X") return {};  // ended, and only not yet asked for by who started it
    for (int i = 1; i < 20; ++i) fields >> field; // the 22nd of all: two came before
    return field;
}

Autosave::Autosave(fs::path directory)
    : directory_(std::move(directory)),
      file_(directory_ / ("autosave-" + std::to_string(getpid()) + "-" + began(getpid()) + ".loosepeg")) {}

fs::path Autosave::state_directory() {
    if (const char* state = std::getenv("XDG_STATE_HOME"); state && *state == '/') return fs::path(state) / "loose-peg";
    if (const char* home = std::getenv("HOME"); home && *home) return fs::path(home) / ".local/state/loose-peg";
    return fs::temp_directory_path() / "loose-peg";
}

std::optional<Problem> Autosave::write(const History& history, const std::string& project_path) {
    std::error_code error;
    fs::create_directories(directory_, error);
    auto bytes = pack_history(history, {}, {{"saved_as", project_path}});
    if (!bytes) return bytes.error();
    return write_file_safely(file_, *bytes);
}

void Autosave::discard() {
    std::error_code error;
    fs::remove(file_, error);
}

std::vector<Autosave::Left> Autosave::left_behind() const {
    remove_cut_short(directory_);
    std::vector<std::pair<fs::file_time_type, Left>> found;
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(directory_, error)) {
        std::string name = entry.path().filename().string();
        if (name.rfind("autosave-", 0) != 0 || entry.path().extension() != ".loosepeg" || entry.path() == file_)
            continue;
        const long pid = std::atol(name.c_str() + 9);
        const size_t dash = name.find('-', 9);
        const std::string then = dash == std::string::npos ? "" : name.substr(dash + 1, name.rfind('.') - dash - 1);
        const std::string now = pid > 0 ? began(pid) : "";
        if (!now.empty() && (then.empty() || now == then)) continue; // that window still runs
        Left left{entry.path(), {}, {}};
        auto opened = open_project(entry.path());
        if (!opened) continue;
        left.name = opened->history.now()->name;
        if (auto bytes = read_file(entry.path())) {
            if (const ZipArchive archive = zip_archive(*bytes))
                if (auto text = read_entry(archive.get(), "history.json")) {
                    json parsed = json::parse(*text, nullptr, false);
                    if (parsed.is_object()) left.project_path = parsed.value("saved_as", "");
                }
        }
        found.push_back({entry.last_write_time(error), left});
    }
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<Left> result;
    for (auto& [time, left] : found) result.push_back(std::move(left));
    return result;
}

} // namespace lp
