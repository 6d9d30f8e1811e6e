#include "app/recent.h"
#include "base/files.h"
#include "base/hash.h"
#include "project/archive.h"
#include <QBuffer>
#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <nlohmann/json.hpp>

namespace lp {
namespace {

using nlohmann::json;
constexpr size_t most = 8;

std::filesystem::path list_file() {
    return Autosave::state_directory() / "recent.json";
}

std::filesystem::path picture_file(const QString& path) {
    return Autosave::state_directory() / "pictures" /
           (std::to_string(Hasher().add(std::string_view(path.toStdString())).value()) + ".png");
}

/// The list as it stands; anything that is not one counts as empty.
std::vector<std::pair<std::string, std::string>> read_list() {
    std::vector<std::pair<std::string, std::string>> list;
    auto text = read_file(list_file());
    json all = text ? json::parse(*text, nullptr, false) : json();
    if (!all.is_array()) return list;
    for (const json& item : all)
        if (item.is_object() && item.contains("path") && item["path"].is_string())
            list.emplace_back(item["path"].get<std::string>(),
                              item.contains("name") && item["name"].is_string() ? item["name"].get<std::string>() : "");
    return list;
}

} // namespace

std::vector<RecentProject> recent_projects() {
    std::vector<RecentProject> recent;
    for (const auto& [path, name] : read_list()) {
        const QString file = QString::fromStdString(path);
        if (!QFileInfo::exists(file) || recent.size() == most) continue;
        recent.push_back(
            {file, QString::fromStdString(name), QImage(QString::fromStdString(picture_file(file).string()))});
    }
    return recent;
}

void note_recent(const QString& path, const QString& name, const QImage& picture) {
    const QString whole = QFileInfo(path).absoluteFilePath();
    json list = json::array();
    list.push_back({{"path", whole.toStdString()}, {"name", name.toStdString()}});
    for (const auto& [other, its] : read_list())
        if (other != whole.toStdString() && list.size() < most) list.push_back({{"path", other}, {"name", its}});
    std::error_code error;
    std::filesystem::create_directories(picture_file(whole).parent_path(), error);
    // A list that cannot be kept is no reason to hold anybody up.
    write_file_safely(list_file(), list.dump(1, ' ', false, json::error_handler_t::replace));
    if (picture.isNull()) return;
    QByteArray png;
    QBuffer buffer(&png);
    buffer.open(QIODevice::WriteOnly);
    picture.scaled(320, 200, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation).save(&buffer, "PNG");
    write_file_safely(picture_file(whole), png.toStdString());
}

std::vector<Example> examples() {
    const QString beside = QCoreApplication::applicationDirPath();
    struct Known {
        const char *folder, *name, *says;
    };
    static constexpr Known known[] = {{"seed-box", "Seed box", "A lid at a fit, a sunk word"},
                                      {"vent-flap", "Vent flap", "A hinge printed in one piece"},
                                      {"pull-of-links", "Pull of links", "A chain printed in one piece"},
                                      {"leaf-guard", "Leaf guard", "A damaged mesh, mended"},
                                      {"pipe-plug", "Pipe plug", "A thread by its name"},
                                      {"pole-clip", "Pole clip", "A hole by its screw"},
                                      {"plant-label", "Plant label", "Letters that read"}};
    std::vector<Example> all;
    for (const Known& example : known)
        for (const char* where : {"/../../../data/examples/", "/../share/loose-peg/examples/"}) {
            const QString folder = QDir::cleanPath(beside + where + example.folder);
            if (!QFileInfo::exists(folder + "/project.json")) continue;
            all.push_back({folder + "/project.json", example.name, example.says, QImage(folder + "/picture.png")});
            break;
        }
    return all;
}

} // namespace lp
