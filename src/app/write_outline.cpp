#include "app/write_outline.h"
#include "formats/write_flat.h"
#include "handoff/flat_outline.h"

namespace lp {
namespace {

const Pick* chosen_face(const Session& session) {
    const auto& picks = session.workspace().selection();
    return picks.size() == 1 && picks[0].kind == Pick::Kind::Face ? &picks[0] : nullptr;
}

/// Of what is seen: parts that are shown, where they stand.
std::vector<TriMesh> seen(const Evaluation& evaluation, PartId alone) {
    std::vector<TriMesh> meshes;
    for (const PartResult& made : evaluation.parts) {
        const PartPtr part = evaluation.project->part(made.part);
        if (part && made.mesh && (alone ? made.part == alone : part->visible))
            meshes.push_back(transformed(*made.mesh, made.place));
    }
    return meshes;
}

} // namespace

bool has_outline_to_write(const Session& session) {
    return chosen_face(session) || session.workspace().section();
}

std::optional<QString> write_outline(Session& session, const QString& file) {
    std::function<Expected<FlatOutline>()> make;
    QString what = "outline";
    if (const Pick* face = chosen_face(session)) {
        const auto* bodies = session.results().bodies_of(face->part);
        if (!bodies || face->body >= bodies->size()) return QString("The part is still being made. Try in a moment.");
        make = [body = (*bodies)[face->body].body, index = face->index] {
            return face_outline(body.tessellation(), index);
        };
    } else if (const auto section = session.workspace().section()) {
        const Vec3 way = section->head<3>();
        const Vec3 normal = -way.normalized(); // seen from where the near side was taken away
        const auto evaluation = session.results().shared_evaluation();
        if (!evaluation) return QString("The parts are still being made. Try in a moment.");
        make = [evaluation, alone = session.workspace().isolated(),
                plane = plane_seen(normal, -(*section)[3] * way / way.squaredNorm())] {
            return section_outline(seen(*evaluation, alone), plane);
        };
        what = "section";
    } else {
        return QString("Choose a flat face, or open the section.");
    }
    session.worker().start(Lane::Asked, "outline", [&session, make, what, file](const Task&) {
        const auto outline = make();
        const auto failed = outline ? write_flat(file.toStdString(), outline->loops) : std::optional(outline.error());
        session.worker().post([&session, failed, what, file] {
            session.say(failed ? QString::fromStdString(failed->text()) : "Wrote the " + what + ": " + file + ".",
                        failed.has_value());
        });
    });
    return std::nullopt;
}

} // namespace lp
