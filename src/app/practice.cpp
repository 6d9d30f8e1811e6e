#include "app/practice.h"
#include "base/quantity.h"
#include "formats/stl.h"
#include "layers/practice_print.h"
#include "project/edit.h"
#include "steps/meshes/bring_in.h"

namespace lp {
namespace {

std::string mm(double value, int decimals = 2) {
    return format_quantity(value, QuantityKind::Length, decimals);
}

/// What happened to it, a sentence each.
PracticeReport report_of(const std::string& name, const std::vector<std::string>& bodies, const PracticePrint& print,
                         const PracticeModel& model) {
    PracticeReport report{name, {}, practice_assumptions(model)};
    report.found.push_back(name + " comes out " + mm(print.mean_mm, 3) +
                           " from the design on average; it stands out by " + mm(print.most_out_mm) + " and in by " +
                           mm(print.most_in_mm) + " at most.");
    for (const FusedBodies& fused : print.fused)
        for (const auto& [first, last] : fused.layers)
            report.found.push_back(bodies[fused.a] + " and " + bodies[fused.b] + " fuse in " +
                                   (first == last ? "layer " + std::to_string(first)
                                                  : "layers " + std::to_string(first) + " to " + std::to_string(last)) +
                                   ".");
    if (!print.droops.empty()) {
        const Droop& deepest = print.droops.front();
        const auto lost =
            std::count_if(print.droops.begin(), print.droops.end(), [](const Droop& d) { return d.lost; });
        report.found.push_back(std::to_string(print.droops.size()) + " lines droop; the deepest by " +
                               mm(deepest.droop_mm) + " over a span of " + mm(deepest.span_mm, 1) + ", " +
                               mm(deepest.at.z()) + " above the bed." +
                               (lost ? " " + std::to_string(lost) + " are not laid at all." : std::string()));
    }
    constexpr double told_from_mm2 = 0.05;
    if (print.without_line_mm2 > told_from_mm2)
        report.found.push_back(format_number(print.without_line_mm2, 1) +
                               " mm² of its layers are too thin for a line, from " +
                               mm(print.thin_from_z_mm.value_or(0)) + " above the bed.");
    return report;
}

/// The printed body as a stand-in of the project.
void take_in(Session& session, const std::string& name, std::shared_ptr<const std::string> stl, const Box3& box,
             PracticeReport report) {
    Part part;
    part.name = free_part_name(*session.project(), name + ", practice print");
    part.stand_in = true;
    part.colour = "#8d9aa6";
    std::string file = file_name_of(part.name) + ".stl";
    for (int n = 2; session.project()->imports.count(file); ++n)
        file = file_name_of(part.name) + "-" + std::to_string(n) + ".stl";
    part.steps.push_back(step_of_kind("bring_in", bring_in_fields(file, 0)));
    // Beside all that is there: on the design it would count as overlapping. Its place is typed back to 0 where wanted.
    Box3 all;
    for (const PartResult& other : session.results().evaluation()->parts)
        if (other.mesh) all.extend(bounding_box(transformed(*other.mesh, other.place)));
    constexpr double between_mm = 10;
    part.place.at[0] = format_quantity(all.max().x() - box.min().x() + between_mm, QuantityKind::Length, 1);
    Edit edit;
    edit.parts = {AddImport{file, std::move(stl)}, AddPart{part}};
    edit.sentence = "Printed " + name + " in practice";
    if (session.document().edit(edit)) return;
    session.say(QString::fromStdString(report.found.front()));
    session.tell_practice(std::move(report));
}

} // namespace

void print_in_practice(Session& session) {
    const Results& results = session.results();
    const PartPtr part = session.project()->part(session.workspace().active_part());
    if (!part || part->stand_in) return session.say("A stand-in is not printed. Choose a part that is.", true);
    if (!results.evaluation_is_current() || !results.analysis_is_current())
        return session.say("The part is still being made. Print it in a moment.", true);
    const PartAnalysis* known = results.analysis()->part(part->id);
    const PartResult* made = results.evaluation()->part(part->id);
    if (!known || !made || made->bodies.empty()) return session.say("It has no body to print.", true);
    PracticeOptions options = practice_options(session.project()->printer);
    options.support_gap_mm = part->supports.options.contact_gap_mm;
    session.worker().start(
        Lane::Asked, "practice",
        [&session, name = part->name, made = *made, pose = known->pose, supports = known->supports.mesh,
         options](const Task& task) {
            std::vector<TriMesh> bodies;
            std::vector<std::string> names;
            for (const StepBody& body : made.bodies) {
                bodies.push_back(transformed(body.body.mesh(), pose));
                names.push_back(made.bodies.size() == 1 ? made.name : body.called());
            }
            auto print = practice_print(bodies, supports, options, task);
            if (print && print->mesh.empty())
                print = problem(ProblemCode::Geometry, "All of it is too thin for a line: nothing was laid.", "");
            if (!print)
                return session.worker().post(
                    [&session, says = QString::fromStdString(print.error().text())] { session.say(says, true); });
            PracticeReport report = report_of(name, names, *print, options.model);
            const TriMesh printed = transformed(print->mesh, made.place * pose.inverse());
            auto stl = std::make_shared<const std::string>(write_stl_binary(printed));
            session.worker().post(
                [&session, name, stl, box = bounding_box(printed), report = std::move(report)]() mutable {
                    take_in(session, name, stl, box, std::move(report));
                });
        });
}

} // namespace lp
