#include "app/practice.h"
#include "base/quantity.h"
#include "formats/stl.h"
#include "layers/practice_print.h"
#include "project/deviation_map.h"
#include "project/edit.h"
#include "steps/meshes/bring_in.h"

namespace lp {
namespace {

/// The printed body as a stand-in of the project.
void take_in(Session& session, const std::string& name, std::shared_ptr<const std::string> stl, const Box3& box,
             PracticeReport report) {
    Part part;
    part.name = free_part_name(*session.project(), practice_name(name));
    part.stand_in = true;
    part.colour = "#8d9aa6";
    std::string file = file_name_of(part.name) + ".stl";
    for (int n = 2; session.project()->imports.count(file); ++n)
        file = file_name_of(part.name) + "-" + std::to_string(n) + ".stl";
    part.steps.push_back(step_of_kind("bring_in", bring_in_fields(file, 0)));
    // Beside all that is there: on the design it would count as overlapping. Its place is typed back to 0 where wanted.
    Box3 all;
    for (const PartResult& other : session.results().evaluation()->parts)
        if (other.mesh) all.extend(other.box.transformed(other.place));
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
    options.support_gap_mm = support_options(*session.project(), *part).gap_mm();
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
            PracticeReport report{name, practice_words(name, names, *print), practice_assumptions(options.model)};
            const TriMesh printed = transformed(print->mesh, made.place * pose.inverse());
            auto stl = std::make_shared<const std::string>(write_stl_binary(printed));
            session.worker().post(
                [&session, name, stl, box = bounding_box(printed), report = std::move(report)]() mutable {
                    take_in(session, name, stl, box, std::move(report));
                });
        });
}

} // namespace lp
