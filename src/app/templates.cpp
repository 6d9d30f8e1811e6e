#include "app/templates.h"
#include "app/view/view_widget.h"
#include "base/files.h"
#include "base/text.h"
#include "project/project_json.h"
#include <QBuffer>
#include <QDir>
#include <nlohmann/json.hpp>

namespace lp {
namespace {

namespace fs = std::filesystem;

fs::path folder_of_templates() {
    if (const char* data = std::getenv("XDG_DATA_HOME"); data && *data == '/')
        return fs::path(data) / "loose-peg" / "templates";
    return fs::path(QDir::homePath().toStdString()) / ".local" / "share" / "loose-peg" / "templates";
}

/// "2 numbers to set: peg, wall".
QString numbers_words(const Project& project) {
    constexpr size_t told = 4;
    std::vector<std::string> names;
    for (const Parameter& parameter : project.parameters)
        if (names.size() < told) names.push_back(parameter.name);
    if (names.empty()) return "no named numbers";
    return QString::fromStdString(counted(project.parameters.size(), "number", "numbers") +
                                  " to set: " + joined(names) + (project.parameters.size() > told ? " …" : ""));
}

std::optional<Problem> write_template(const fs::path& folder, const Project& project, const QImage& picture) {
    std::error_code error;
    fs::create_directories(folder / "imports", error);
    if (auto failed = write_file_safely(folder / "project.json", project_to_json(project).dump(1))) return failed;
    for (const auto& [name, bytes] : project.imports)
        if (bytes)
            if (auto failed = write_file_safely(folder / "imports" / name, *bytes)) return failed;
    if (picture.isNull()) return std::nullopt;
    QByteArray png;
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    picture.scaled(320, 200, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation).save(&buffer, "PNG");
    return write_file_safely(folder / "picture.png", png.toStdString());
}

} // namespace

std::vector<Example> kept_templates() {
    std::vector<Example> all;
    std::error_code error;
    std::set<fs::path> folders;
    for (const auto& entry : fs::directory_iterator(folder_of_templates(), error))
        if (entry.path().filename().string()[0] != '.') folders.insert(entry.path());
    for (const fs::path& folder : folders) {
        const auto text = read_file(folder / "project.json");
        const auto project = text ? project_from_text(*text) : Expected<Project>(pass_on(text));
        if (!project) continue;
        all.push_back({QString::fromStdString((folder / "project.json").string()),
                       QString::fromStdString(project->name), numbers_words(*project),
                       QImage(QString::fromStdString((folder / "picture.png").string()))});
    }
    return all;
}

std::optional<Problem> keep_template(const Project& project, const QImage& picture) {
    const std::string name = file_name_of(project.name);
    const fs::path all = folder_of_templates(), folder = all / name, fresh = all / ("." + name + "-writing"),
                   old = all / ("." + name + "-before");
    std::error_code error;
    fs::remove_all(fresh, error);
    if (auto failed = write_template(fresh, project, picture)) {
        fs::remove_all(fresh, error);
        return failed;
    }
    fs::remove_all(old, error);
    fs::rename(folder, old, error); // where there is one
    fs::rename(fresh, folder, error);
    if (!error) {
        fs::remove_all(old, error);
        return std::nullopt;
    }
    const std::string why = error.message();
    fs::rename(old, folder, error);
    fs::remove_all(fresh, error);
    return Problem{ProblemCode::File, "The template could not be kept: " + why + "."};
}

std::optional<Problem> forget_template(const QString& path) {
    const fs::path folder = fs::path(path.toStdString()).parent_path();
    if (folder.parent_path() != folder_of_templates())
        return Problem{ProblemCode::File, "This is no template that was kept."};
    std::error_code error;
    fs::remove_all(folder, error);
    if (error) return Problem{ProblemCode::File, "The template could not be removed: " + error.message() + "."};
    return std::nullopt;
}

void keep_as_template(Session& session, const QWidget* window) {
    const auto* view = window->findChild<const ViewWidget*>();
    session.worker().start(Lane::Asked, "template",
                           [&session, project = session.project(),
                            picture = view ? const_cast<ViewWidget*>(view)->picture() : QImage()](const Task&) {
                               const auto failed = keep_template(*project, picture);
                               session.worker().post([&session, failed, name = project->name] {
                                   session.say(failed ? QString::fromStdString(failed->text())
                                                      : "Kept as the template “" + QString::fromStdString(name) +
                                                            "”: a new project can begin with it.",
                                               failed.has_value());
                               });
                           });
}

} // namespace lp
