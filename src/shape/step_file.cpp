#include "shape/step_file.h"
#include "shape/exact_shape.h"
#include "shape/kernel_guard.h"
#include <TopoDS_Iterator.hxx>
#include <algorithm>

namespace lp {
namespace {

constexpr size_t most_bytes = size_t(200) << 20, most_entities = 1'500'000;
constexpr double budget_s = 60;

/// Damaged files can lead the library round in circles.
double reading_budget_s(size_t bytes) {
    constexpr double small_s = 6, bytes_a_second = 3e5;
    return std::min(budget_s, small_s + double(bytes) / bytes_a_second);
}

std::optional<Problem> no_helper() {
    if (kernel_is_apart()) return std::nullopt;
    return Problem{ProblemCode::Missing, "Exact files need the geometry kernel's own process, which is not there.",
                   "Install loose-peg-kernel beside the program."};
}

/// Every solid of a file, by the helper.
Expected<std::vector<StepFileBody>> read_solids(const char* what, const std::string& bytes, const Task& task) {
    KernelCall call;
    call.what = what;
    call.texts.push_back(bytes);
    auto answer = run_guarded(call, task, reading_budget_s(bytes.size()));
    if (!answer) return pass_on(answer);
    std::vector<StepFileBody> bodies;
    size_t i = 0;
    for (TopoDS_Iterator solid(answer->shape); solid.More() && i < answer->texts.size(); solid.Next(), ++i) {
        auto shape = std::make_shared<ExactShape>();
        shape->shape = solid.Value();
        auto body = Body::from_exact(shape);
        if (!body) return pass_on(body);
        StepFileBody one{answer->texts[i], std::move(*body)};
        if (i < answer->numbers.size() && answer->numbers[i] >= 0) one.colour = uint32_t(answer->numbers[i]);
        bodies.push_back(std::move(one));
    }
    if (bodies.empty()) return problem(ProblemCode::Geometry, "It holds no solid.", "Export solids.");
    return bodies;
}

} // namespace

Expected<std::vector<StepFileBody>> read_brep_file(const std::string& bytes, const Task& task) {
    if (auto problem = no_helper()) return tl::unexpected(*problem);
    if (bytes.size() > most_bytes)
        return problem(ProblemCode::File, "It is larger than 200 MB.", "Export fewer parts at once.");
    return read_solids("read brep", bytes, task);
}

Expected<std::vector<StepFileBody>> read_step_file(const std::string& bytes, const Task& task) {
    if (auto problem = no_helper()) return tl::unexpected(*problem);
    if (bytes.size() > most_bytes)
        return problem(ProblemCode::File, "It is larger than 200 MB.", "Export fewer parts at once.");
    const auto entities = size_t(std::count(bytes.begin(), bytes.end(), ';'));
    if (entities > most_entities)
        return problem(ProblemCode::File,
                       "It holds " + std::to_string(entities) + " entities; 1,500,000 are read at most.",
                       "Export fewer parts at once.");
    if (bytes.find("ENDSEC", bytes.find("DATA;")) == std::string::npos)
        return problem(ProblemCode::File, "It is cut off: the end of its data is missing.", "Export it again.");
    return read_solids("read step", bytes, task);
}

Expected<std::string> write_step_file(const std::vector<StepFileBody>& bodies, const std::string& title,
                                      const Task& task) {
    if (auto problem = no_helper()) return tl::unexpected(*problem);
    KernelCall call;
    call.what = "write step";
    for (const StepFileBody& one : bodies) {
        if (!one.body.is_exact())
            return problem(ProblemCode::Geometry,
                           (one.name.empty() ? std::string("It") : one.name) +
                               " is of triangles: a STEP file holds exact bodies alone.",
                           "Write it as STL, OBJ or 3MF.");
        call.shapes.push_back(one.body.exact()->shape);
        call.texts.push_back(one.name);
        call.numbers.push_back(double(one.colour.value_or(0xd69b48)));
    }
    if (bodies.empty()) return problem(ProblemCode::Missing, "There is nothing to write.", "Make a part first.");
    call.texts.push_back(title);
    auto answer = run_guarded(call, task, budget_s);
    if (!answer) return pass_on(answer);
    if (answer->texts.size() != 1 || answer->texts[0].empty())
        return problem(ProblemCode::File, "The STEP file came back empty.", "Try again.");
    return std::move(answer->texts[0]);
}

} // namespace lp
