#include "app/scene_builder.h"
#include "app/panels/fit_panel.h"
#include "app/theme/marks.h"
#include <QCoreApplication>
#include <QDir>
#include <QFile>

namespace lp {

namespace {
/// On the bed the active part alone is shown as it lies; elsewhere everything where it stands in the design.
bool on_bed(const Session& session) {
    PartPtr part = session.project()->part(session.active_part());
    return session.stretch() == Stretch::Bed && part && !part->stand_in;
}
} // namespace

Scene build_scene(const Session& session) {
    Scene scene;
    const Evaluation* evaluation = session.evaluation();
    if (!evaluation) return scene;
    const Project& project = *session.project();
    scene.bed_mm = project.printer.bed_mm;
    scene.hanging_limit_deg = project.printer.overhang_limit_deg;
    scene.active_part = session.active_part();
    scene.selected = session.selection();
    bool bed = on_bed(session);
    scene.show_hanging = session.stretch() == Stretch::Check || session.stretch() == Stretch::Bed;
    Transform active_pose = session.pose_of(session.active_part());
    for (const PartPtr& part : project.parts) {
        const PartResult* result = evaluation->part(part->id);
        if (!result || !part->visible || (bed && part->id != session.active_part())) continue;
        if (session.isolated() && part->id != session.isolated()) continue;
        const std::vector<StepBody>& bodies = bed ? result->bodies : *session.bodies_of(part->id);
        for (size_t i = 0; i < bodies.size(); ++i) {
            SceneBody body;
            body.part = part->id;
            body.body = i;
            body.shape = bodies[i].body.shared_tessellation();
            body.colour = QColor(QString::fromStdString(part->colour));
            body.stand_in = part->stand_in;
            body.see_through = part->see_through;
            body.place = bed ? active_pose : result->place;
            if (!bed)
                if (auto by = session.shown_at(part->id, i)) body.place = *by * body.place;
            for (const GapMap& map : session.gap_map())
                if (!bed && map.part == part->id && map.body == i) {
                    body.shape = map.shape;
                    body.gap_mm = map.gap_mm;
                    body.gap_top_mm = map.high_mm;
                    body.gap_contour_mm = map.contour_mm;
                }
            bool veils = session.stretch() == Stretch::Fit ||
                         std::any_of(scene.selected.begin(), scene.selected.end(),
                                     [&](const Pick& p) { return p.part == part->id && p.body == i; });
            if (!bed && veils && session.gap_map().empty())
                for (const CarriedHalo& halo : bodies[i].halos) {
                    SceneBody veil = body;
                    veil.shape = halo.envelope.shared_tessellation();
                    veil.veil = true;
                    scene.bodies.push_back(std::move(veil));
                }
            scene.bodies.push_back(std::move(body));
        }
    }
    // What faces a mapped surface is looked through.
    if (!session.gap_map().empty() && session.analysis() && session.active_contact() >= 0) {
        const ContactResult& c = session.analysis()->contacts[size_t(session.active_contact())];
        for (SceneBody& b : scene.bodies)
            if (b.part == c.part_a && (!c.body_a || *c.body_a == b.body) && !b.gap_mm) b.see_through = true;
    }
    if (bed) {
        if (const PartAnalysis* analysis =
                session.analysis() ? session.analysis()->part(session.active_part()) : nullptr)
            if (analysis->supports_shape && session.project()->part(session.active_part())->supports.on) {
                SceneBody body;
                body.part = session.active_part();
                body.body = 1000;
                body.shape = analysis->supports_shape;
                body.colour = QColor(0xc9c1b0);
                body.support = true;
                scene.bodies.push_back(std::move(body));
            }
    }
    // In the design the mat is only a ground: it sinks below what reaches under zero, so that it hides nothing.
    if (!bed)
        for (const PartResult& result : evaluation->parts)
            if (result.mesh && project.part(result.part) && project.part(result.part)->visible)
                scene.bed_z = std::min(scene.bed_z, result.box.transformed(result.place).min().z());
    Transform to_print = active_pose * session.place_of(session.active_part()).inverse();
    scene.print_frame = bed ? Transform::Identity() : to_print;
    if (session.section()) scene.section = *session.section();
    if (session.cut_height()) {
        // What is laid up to this height stays: below the plane in the print frame.
        Eigen::Vector4d plane(0, 0, -1, *session.cut_height());
        if (!bed) {
            const auto& m = to_print.matrix();
            plane = m.transpose() * plane;
        }
        scene.section = plane;
    }
    return scene;
}

std::vector<ViewMark> build_marks(const Session& session) {
    std::vector<ViewMark> marks;
    const Analysis* analysis = session.analysis();
    if (!analysis) return marks;
    if (session.stretch() == Stretch::Shape || session.stretch() == Stretch::Fit)
        for (const MeasureResult& measure : analysis->measures) {
            if (!measure.found) continue;
            ViewMark mark;
            mark.at = measure.found->at_a;
            mark.to = measure.found->at_b;
            mark.title = QString::fromStdString(format_fixed(measure.found->distance_mm, 2)) + " mm";
            marks.push_back(mark);
        }
    if (session.stretch() == Stretch::Fit) {
        for (size_t i = 0; i < analysis->contacts.size(); ++i) {
            const ContactResult& c = analysis->contacts[i];
            if (!c.gap) continue;
            ViewMark mark;
            mark.at = c.gap->at_b;
            mark.ring = c.state;
            if (session.active_contact() == int(i)) {
                mark.title = contact_title(c);
                mark.text = QString::fromStdString(format_fixed(c.gap->min_mm, 2)) +
                            (c.wanted ? QString::fromStdString(" of " + format_fixed(c.wanted->gap_mm, 2)) : "") +
                            " mm · " + theme::fit_state_words(c.state);
                marks.insert(marks.begin(), mark); // the first is where the view goes
            } else {
                marks.push_back(mark);
            }
        }
    }
    if (session.stretch() == Stretch::Check || session.stretch() == Stretch::Bed) {
        const PartAnalysis* part = analysis->part(session.active_part());
        if (!part) return marks;
        // Findings are placed as posed; in the design they are taken back.
        Transform to_view =
            on_bed(session) ? Transform::Identity() : session.place_of(session.active_part()) * part->pose.inverse();
        const auto& findings = part->inspection.findings;
        for (size_t i = 0; i < findings.size(); ++i) {
            if (session.stretch() == Stretch::Check ? session.active_finding() != int(i)
                                                    : findings[i].kind != "hanging")
                continue;
            if (session.stretch() == Stretch::Bed && !part->supports.posts.empty()) continue;
            const Finding& f = findings[i];
            marks.push_back({to_view * f.where, QString::fromStdString(f.title),
                             QString::fromStdString(f.says).left(64), std::nullopt, QString::fromStdString(f.kind)});
        }
        if (session.stretch() == Stretch::Check && session.active_finding() == 1000 && part->plan &&
            !part->plan->islands.empty()) {
            const Island& island = part->plan->islands.front();
            marks.push_back({to_view * Vec3(island.at.x(), island.at.y(), island.z_mm), "Starts in mid-air",
                             QString::fromStdString("z " + format_fixed(island.z_mm, 2) + " mm, " +
                                                    format_number(island.area_mm2, 1) + " mm²"),
                             std::nullopt, "mid_air"});
        }
    }
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
