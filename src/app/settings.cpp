#include "app/settings.h"
#include "base/files.h"
#include <QDir>
#include <QStandardPaths>
#include <algorithm>
#include <array>
#include <nlohmann/json.hpp>

namespace lp {
namespace {

using nlohmann::json;

constexpr std::array<const char*, 2> units{"mm", "in"};
constexpr std::array<const char*, 3> looks{"paper", "night bench", "as the desktop"};
constexpr std::array<const char*, 3> pointers{"bench", "wheel", "fingers"};

template <class Choice, size_t N>
void take(const json& all, const char* key, const std::array<const char*, N>& words, Choice& choice) {
    auto its = all.find(key);
    if (its == all.end() || !its->is_string()) return;
    auto word = std::find(words.begin(), words.end(), its->template get<std::string>());
    if (word != words.end()) choice = Choice(word - words.begin());
}

void take(const json& all, const char* key, int least, int most, int& number) {
    auto its = all.find(key);
    if (its == all.end() || !its->is_number_integer()) return;
    if (auto n = its->get<long long>(); n >= least && n <= most) number = int(n);
}

Settings from_text(const std::string& text) {
    Settings s;
    json all = json::parse(text, nullptr, false);
    if (!all.is_object()) return s;
    take(all, "unit", units, s.unit);
    take(all, "look", looks, s.look);
    take(all, "pointer", pointers, s.pointer);
    take(all, "size_percent", 80, 200, s.size_percent);
    take(all, "autosave_s", 2, 600, s.autosave_s);
    return s;
}

} // namespace

SettingsFile::SettingsFile() {
    read();
}

SettingsFile& SettingsFile::only() {
    static SettingsFile one;
    return one;
}

QString SettingsFile::path() {
    return QStandardPaths::writableLocation(QStandardPaths::GenericConfigLocation) + "/loose-peg/settings.json";
}

void SettingsFile::read() {
    auto text = read_file(path().toStdString());
    now_ = text ? from_text(*text) : Settings();
}

bool SettingsFile::set(const Settings& settings, QString* problem) {
    if (settings == now_) return true;
    const Settings before = std::exchange(now_, settings);
    json all{{"unit", units[size_t(now_.unit)]},
             {"look", looks[size_t(now_.look)]},
             {"pointer", pointers[size_t(now_.pointer)]},
             {"size_percent", now_.size_percent},
             {"autosave_s", now_.autosave_s}};
    QDir().mkpath(QString(path()).section('/', 0, -2));
    auto failed = write_file_safely(path().toStdString(), all.dump(1) + "\n");
    if (failed && problem) *problem = QString::fromStdString(failed->text());
    emit changed(before);
    return !failed;
}

} // namespace lp
