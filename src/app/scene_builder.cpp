#include "app/scene_builder.h"
#include "app/bed_layout.h"
#include "app/theme/marks.h"
#include "base/hash.h"
#include "project/contact_words.h"
#include "project/marked_faces.h"
#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <map>
#include <nlohmann/json.hpp>

namespace lp {

namespace {
constexpr size_t supports_body = 1000, brushed_body = 1001; ///< numbers that no body of a part has
/// On the bed, and where files are made of it, everything is shown as it is printed; elsewhere where it stands in the
/// design.
bool on_bed(const Session& session) {
    return session.workspace().stretch() == Stretch::Bed || session.workspace().stretch() == Stretch::Export;
}
/// How far a body of the active part hangs, once it was looked at.
std::shared_ptr<const SurfaceMap> hanging_map(const Session& session, const SceneBody& body) {
    const PartAnalysis* known = session.results().analysis() ? session.results().analysis()->part(body.part) : nullptr;
    if (known && body.body < known->hanging.size() && known->hanging[body.body]->shape == body.shape)
        return known->hanging[body.body];
    return nullptr;
}
} // namespace

/// A body as it is shown, and what goes round it.
static void add_body(const Session& session, const Part& part, const Transform& place,
                     const std::vector<StepBody>& bodies, size_t i, int copy, Scene& scene) {
    const bool bed = on_bed(session), active = part.id == session.workspace().active_part();
    const bool hanging =
        session.workspace().stretch() == Stretch::Check || session.workspace().stretch() == Stretch::Bed;
    SceneBody body;
    body.part = part.id;
    body.body = i;
    body.copy = copy;
    body.shape = bodies[i].body.shared_tessellation();
    body.colour = QColor(QString::fromStdString(part.colour));
    body.stand_in = part.stand_in;
    body.see_through = part.see_through;
    body.place = place;
    if (!bed) body.place = session.results().stands(part.id, i) * body.place;
    const bool measured = session.workspace().stretch() == Stretch::Check &&
                          session.workspace().coloured() != Workspace::Coloured::Hanging;
    if (hanging && active && !measured) body.map = hanging_map(session, body);
    for (const auto& map : session.results().check_map())
        if (measured && map->part == part.id && map->body == i) {
            body.shape = map->shape;
            body.map = map;
        }
    for (const SurfaceMap& map : session.results().gap_map())
        if (!bed && map.part == part.id && map.body == i) {
            body.shape = map.shape;
            body.map = std::make_shared<const SurfaceMap>(map);
        }
    bool veils = session.workspace().stretch() == Stretch::Fit ||
                 std::any_of(scene.selected.begin(), scene.selected.end(),
                             [&](const Pick& p) { return p.part == part.id && p.body == i; });
    if (!bed && veils && session.results().gap_map().empty())
        for (const CarriedHalo& halo : bodies[i].halos) {
            SceneBody veil = body;
            veil.shape = halo.envelope.shared_tessellation();
            veil.veil = true;
            scene.bodies.push_back(std::move(veil));
        }
    scene.bodies.push_back(std::move(body));
}

/// What is printed, as it will lie, with its supports.
static void add_beds(const Session& session,
                     const std::function<void(const Part&, const std::vector<StepBody>&, const Transform&, int)>& add,
                     Scene& scene) {
    const BedLayout layout = bed_layout(session);
    scene.beds = layout.beds;
    for (const BedCopy& copy : layout.copies) {
        PartPtr part = session.project()->part(copy.part);
        add(*part, session.results().evaluation()->part(copy.part)->bodies, copy.place, copy.copy);
        const PartAnalysis* known =
            session.results().analysis() ? session.results().analysis()->part(copy.part) : nullptr;
        if (!known || !known->supports_shape || !part->supports.any() || !part->visible) continue;
        SceneBody posts;
        posts.part = copy.part;
        posts.body = supports_body;
        posts.shape = known->supports_shape;
        posts.place = copy.stand;
        posts.copy = copy.copy;
        posts.colour = QColor(0xc9c1b0);
        posts.support = true;
        scene.bodies.push_back(std::move(posts));
    }
}

/// Triangles that were brushed, a little off their body: a face a mark. The same again while nothing changed.
static const SceneBody& brushed_shape(const Session& session, const PartResult& made, const FoundMarks& marks) {
    struct Kept {
        SceneBody body;
        uint64_t key = 0;
        std::weak_ptr<const TriMesh> mesh;
    };
    static std::map<PartId, Kept> shapes;
    std::erase_if(shapes, [](const auto& kept) { return kept.second.mesh.expired(); });
    auto& [last, of, mesh] = shapes[made.part];
    const PartAnalysis* known = session.results().analysis() ? session.results().analysis()->part(made.part) : nullptr;
    Hasher key(marks.dabs_key);
    for (size_t i = 0; known && i < known->hanging.size(); ++i) key.add(uint64_t(uintptr_t(known->hanging[i].get())));
    if (of == key.value() && mesh.lock() == made.mesh && last.shape) return last;
    of = key.value();
    mesh = made.mesh;
    constexpr double off_mm = 0.01;
    auto shape = std::make_shared<Tessellation>();
    auto values = std::make_shared<std::vector<float>>();
    shape->faces.resize(face_marks);
    SurfaceMap map;
    size_t first = 0;
    for (size_t body = 0; body < made.bodies.size(); ++body) {
        const Tessellation& whole = made.bodies[body].body.tessellation();
        const bool hangs =
            known && body < known->hanging.size() && known->hanging[body]->values->size() == 3 * whole.face_of.size();
        if (hangs && map.values == nullptr) map = *known->hanging[body];
        for (size_t i = 0; i < whole.face_of.size(); ++i) {
            const auto mark = marks.brushed.at(first + i);
            if (!mark) continue;
            const auto corner = uint32_t(shape->mesh.vertices.size());
            shape->mesh.triangles.push_back({corner, corner + 1, corner + 2});
            shape->face_of.push_back(uint32_t(*mark));
            shape->normals.push_back(whole.normals[i]);
            for (int k = 0; k < 3; ++k) {
                shape->mesh.vertices.push_back(whole.mesh.corner(i, k) + off_mm * whole.normals[i][size_t(k)]);
                values->push_back(hangs ? (*known->hanging[body]->values)[3 * i + size_t(k)] : 0.0f);
            }
        }
        first += whole.face_of.size();
    }
    last = SceneBody{};
    last.part = made.part;
    last.body = brushed_body;
    last.brushed = true;
    last.shape = shape;
    if (map.values) {
        map.shape = shape;
        map.values = values;
        map.body = brushed_body;
        last.map = std::make_shared<const SurfaceMap>(std::move(map));
    }
    return last;
}

/// Faces of a part that carry a mark, and what was brushed on it.
static void add_marked(const Session& session, const PartPtr& part, Scene& scene) {
    const PartResult* made = session.results().evaluation()->part(part->id);
    if (!made || (part->marks.empty() && part->brushed.empty())) return;
    const FoundMarks found = find_marks(*part, *made);
    for (const FoundMark& mark : found.faces) scene.marked.push_back({part->id, mark.body, mark.face, mark.mark});
    if (found.brushed.of.empty()) return;
    std::vector<SceneBody> over;
    for (const SceneBody& body : scene.bodies) {
        if (body.part != part->id || body.body != 0 || only_looked_at(body)) continue;
        over.push_back(brushed_shape(session, *made, found));
        over.back().place = body.place;
        over.back().copy = body.copy;
        over.back().colour = body.colour;
    }
    scene.bodies.insert(scene.bodies.end(), over.begin(), over.end());
    for (int i = 0; i < face_marks; ++i) scene.marked.push_back({part->id, brushed_body, size_t(i), FaceMark(i)});
}

Scene build_scene(const Session& session) {
    Scene scene;
    const Evaluation* evaluation = session.results().evaluation();
    if (!evaluation) return scene;
    const Project& project = *session.project();
    scene.bed_mm = project.printer.bed_mm;
    scene.active_part = session.workspace().active_part();
    scene.selected = session.workspace().selection();
    bool bed = on_bed(session);
    Transform active_pose = session.results().pose_of(session.workspace().active_part());
    auto add = [&](const Part& part, const std::vector<StepBody>& bodies, const Transform& place, int copy) {
        const Workspace& shown = session.workspace();
        const bool other = shown.isolated() && part.id != shown.isolated();
        if (!part.visible || (other && !shown.ghosts())) return;
        const size_t before = scene.bodies.size();
        for (size_t i = 0; i < bodies.size(); ++i) add_body(session, part, place, bodies, i, copy, scene);
        for (size_t i = before; i < scene.bodies.size(); ++i) scene.bodies[i].ghost = other;
    };
    for (const PartPtr& part : project.parts)
        if (const PartResult* result = bed ? nullptr : evaluation->part(part->id))
            add(*part, *session.results().bodies_of(part->id), result->place, 0);
    if (bed) add_beds(session, add, scene);
    // What faces a mapped surface is looked through.
    if (const ContactResult* c = session.results().active_contact(); c && !session.results().gap_map().empty())
        for (SceneBody& b : scene.bodies)
            if (b.part == c->part_a && (!c->body_a || *c->body_a == b.body) && !b.map) b.see_through = true;
    // In the design the mat is only a ground: it sinks below what reaches under zero, so that it hides nothing.
    if (!bed)
        for (const PartResult& result : evaluation->parts)
            if (result.mesh && project.part(result.part) && project.part(result.part)->visible)
                scene.bed_z = std::min(scene.bed_z, result.box.transformed(result.place).min().z());
    Transform to_print = active_pose * session.results().place_of(session.workspace().active_part()).inverse();
    if (session.workspace().stretch() == Stretch::Bed)
        for (const PartPtr& part : project.parts) add_marked(session, part, scene);
    scene.print_frame = bed ? Transform::Identity() : to_print;
    if (session.workspace().section()) scene.section = *session.workspace().section();
    if (session.workspace().cut_height()) {
        // What is laid up to this height stays: below the plane in the print frame.
        Eigen::Vector4d plane(0, 0, -1, *session.workspace().cut_height());
        if (!bed) {
            const auto& m = to_print.matrix();
            plane = m.transpose() * plane;
        }
        scene.section = plane;
    }
    return scene;
}

namespace {

void add_contacts(const Session& session, const Analysis& analysis, std::vector<ViewMark>& marks) {
    if (session.taken_apart().is_apart()) return; // nothing meets there
    for (const ContactResult& c : analysis.contacts) {
        if (!c.gap) continue;
        ViewMark mark;
        const Results& results = session.results();
        const size_t body = c.body_b.value_or(0);
        mark.at = results.shifted(c.part_b, body) * results.stands(c.part_b, body) * c.gap->at_b;
        mark.mark = c.state;
        if (session.workspace().active_contact() != c.ref()) {
            mark.contact = c.ref();
            mark.tip = QString::fromStdString(contact_title(c) + ": " + contact_words(*session.project(), c));
            marks.push_back(mark);
            continue;
        }
        mark.title = QString::fromStdString(contact_title(c));
        std::string gap =
            format_fixed(c.gap->min_mm, 2) + (c.wanted ? " of " + format_fixed(c.wanted->gap_mm, 2) : "") + " mm · ";
        std::string state = led_words(session.results().led_of(c));
        if (state.empty() && !overlap_words(c).empty()) gap.clear(), state = overlap_words(c); // there is no gap
        if (state.empty()) state = fit_state_words(c);
        mark.text = QString::fromStdString(gap + state);
        marks.insert(marks.begin(), mark); // the first is where the view goes
    }
}

/// What is wanted of marked faces, at each.
void add_mark_words(const Session& session, std::vector<ViewMark>& marks) {
    const PartPtr part = session.project()->part(session.workspace().active_part());
    const PartAnalysis* known =
        part && session.results().analysis() ? session.results().analysis()->part(part->id) : nullptr;
    const PartResult* made = known ? session.results().evaluation()->part(part->id) : nullptr;
    if (!made || part->marks.empty()) return;
    for (const FoundMark& found : find_marks(*part, *made).faces) {
        ViewMark mark;
        mark.at = on_its_bed(session, part->id) * known->pose * found.at;
        mark.title = words_of(found.mark);
        marks.push_back(mark);
    }
}

/// Which way the part is pulled in use, as a line through its middle.
void add_load(const Session& session, std::vector<ViewMark>& marks) {
    const PartPtr part = session.project()->part(session.workspace().active_part());
    const PartResult* made = part && part->load ? session.results().evaluation()->part(part->id) : nullptr;
    if (!made || !made->mesh) return;
    const Transform to_view = on_its_bed(session, part->id) * session.results().pose_of(part->id);
    const Vec3 middle = made->box.center(), reach = *part->load * (0.6 * made->box.sizes().norm());
    ViewMark mark;
    mark.at = to_view * Vec3(middle - reach);
    mark.to = to_view * Vec3(middle + reach);
    mark.title = "pulled";
    marks.push_back(mark);
}

Vec3 middle_of(const std::array<Vec3, 3>& corners) {
    // Of an edge the last corner stands twice.
    return corners[1] == corners[2] ? Vec3((corners[0] + corners[1]) / 2)
                                    : Vec3((corners[0] + corners[1] + corners[2]) / 3);
}

/// The finding that is looked at; on the bed what hangs without a support.
void add_findings(const Session& session, const Analysis& analysis, std::vector<ViewMark>& marks) {
    const PartAnalysis* part = analysis.part(session.workspace().active_part());
    if (!part) return;
    const bool check = session.workspace().stretch() == Stretch::Check;
    if (!check && part->supports.count()) return;
    // Findings are placed as posed; in the design they are taken back.
    Transform to_view = on_bed(session) ? on_its_bed(session, part->part)
                                        : session.results().place_of(part->part) * part->pose.inverse();
    for (const PartFinding& f : findings_of_part(*session.results().evaluation(), &analysis, part->part)) {
        if (check ? session.workspace().active_finding() != f.ref
                  : f.finding.kind != FindingKind::Hanging && f.finding.kind != FindingKind::Bridge)
            continue;
        ViewMark mark;
        const auto& places = f.finding.places;
        const size_t place = check && places.size() > 1 ? session.workspace().finding_place() % places.size() : 0;
        mark.at = to_view * (place ? middle_of(places[place]) : f.finding.where);
        mark.title = QString::fromStdString(f.finding.title.empty() ? row_of(f.finding.kind).title : f.finding.title);
        constexpr int most = 64;
        const QString says = QString::fromStdString(f.finding.says);
        mark.text = says.size() > most ? says.left(most - 2) + " …" : says;
        mark.mark = row_of(f.finding.kind).mark;
        if (places.size() > 1) mark.title += QString(" · place %1").arg(place + 1);
        for (const auto& corners : places)
            mark.outlines.push_back({to_view * corners[0], to_view * corners[1], to_view * corners[2]});
        mark.outlined = place;
        marks.push_back(mark);
    }
}

} // namespace

std::vector<ViewMark> build_marks(const Session& session) {
    std::vector<ViewMark> marks;
    const Analysis* analysis = session.results().analysis();
    if (!analysis) return marks;
    // While something is led along nobody knows how far it is.
    const bool led = session.results().is_showing_movement() && session.workspace().stretch() == Stretch::Fit;
    if (session.workspace().stretch() == Stretch::Shape || (session.workspace().stretch() == Stretch::Fit && !led))
        for (const MeasureResult& measure : analysis->measures) {
            if (!measure.found) continue;
            const bool fit = session.workspace().stretch() == Stretch::Fit;
            const Measured& found = fit && measure.standing ? *measure.standing : *measure.found;
            ViewMark mark;
            mark.at = found.at_a;
            mark.to = found.at_b;
            mark.title = QString::fromStdString(format_fixed(found.distance_mm, 2)) + " mm";
            marks.push_back(mark);
        }
    if (session.workspace().stretch() == Stretch::Bed) {
        add_mark_words(session, marks);
        add_load(session, marks);
    }
    if (session.workspace().stretch() == Stretch::Fit) add_contacts(session, *analysis, marks);
    if (session.workspace().stretch() == Stretch::Check || session.workspace().stretch() == Stretch::Bed)
        add_findings(session, *analysis, marks);
    return marks;
}

QString demo_project_path() {
    QString beside = QCoreApplication::applicationDirPath();
    for (const char* where :
         {"/../../../data/demo/rain-gauge/project.json", "/../share/loose-peg/demo/rain-gauge/project.json"})
        if (QFile::exists(beside + where)) return QDir::cleanPath(beside + where);
    return {};
}

} // namespace lp
