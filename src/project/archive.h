// The .loosepeg file: a ZIP with project.json, history.json, imports/ and preview.png (docs/file-format.md).
#pragma once
#include "project/history.h"
#include <filesystem>

namespace lp {

/// Saves with the history. The file that was there becomes "NAME.loosepeg~".
std::optional<Problem> save_project(const std::filesystem::path& path, const History& history,
                                    const std::string& preview_png = {});

struct Opened {
    History history;
    bool bare = false;              ///< a project.json with its imports beside it
    std::vector<std::string> notes; ///< imports that are missing and the like
};
/// Opens a .loosepeg file or a bare project.json; which it is, is seen from the contents.
Expected<Opened> open_project(const std::filesystem::path& path);

/// A project without its past as the bytes of a .loosepeg file, and such bytes read, nothing written or opened.
Expected<std::string> project_to_bytes(const Project& project);
Expected<Project> project_from_bytes(const std::string& bytes);

/// Autosave in the state directory ($XDG_STATE_HOME/loose-peg), one file a running window.
class Autosave {
  public:
    explicit Autosave(std::filesystem::path directory);
    static std::filesystem::path state_directory();
    std::optional<Problem> write(const History& history, const std::string& project_path);
    void discard(); ///< after saving or closing in peace

    struct Left {
        std::filesystem::path file;
        std::string project_path; ///< where the project was saved before; may be empty
        std::string name;
    };
    /// What windows that ended badly left behind, newest first. Files of windows still running are left alone.
    std::vector<Left> left_behind() const;
    const std::filesystem::path& file() const { return file_; }

  private:
    std::filesystem::path directory_, file_;
};

} // namespace lp
