#include "app/write_map.h"
#include "base/quantity.h"
#include "handoff/bed_files.h"
#include "project/map_colours.h"

namespace lp {
namespace {

std::vector<SurfaceMap> shown_maps(const Session& session) {
    std::vector<SurfaceMap> maps;
    for (const auto& map : session.results().check_map())
        if (map) maps.push_back(*map);
    if (maps.empty()) maps = session.results().gap_map();
    return maps;
}

} // namespace

bool has_map_to_write(const Session& session) {
    return !session.results().check_map().empty() || !session.results().gap_map().empty();
}

void write_map(Session& session, const QString& file) {
    const auto evaluation = session.results().shared_evaluation();
    const std::vector<SurfaceMap> maps = shown_maps(session);
    if (maps.empty() || !evaluation) return session.say(nothing_mapped, true);
    session.worker().start(Lane::Asked, "map", [&session, maps, evaluation, file](const Task& task) {
        std::vector<FileObject> objects;
        for (const SurfaceMap& map : maps) {
            if (task.stopped()) return;
            const PartResult* made = evaluation->part(map.part);
            const PartPtr part = evaluation->project->part(map.part);
            if (!made || !part) continue;
            objects.push_back(coloured_object(map, made->place, colour_number(part->colour), part->name));
        }
        const auto failed = write_objects(file.toStdString(), objects, evaluation->project->name);
        const SurfaceMap& first = maps.front();
        const QString words =
            QString("Wrote the map: %1. Its colours go from %2 to %3 %4.")
                .arg(file, QString::fromStdString(format_number(first.low, 2)),
                     QString::fromStdString(format_number(first.high, 2)), QString::fromStdString(first.unit));
        session.worker().post([&session, failed, words] {
            session.say(failed ? QString::fromStdString(failed->text()) : words, failed.has_value());
        });
    });
}

} // namespace lp
