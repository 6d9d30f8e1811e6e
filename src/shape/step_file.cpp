#include "shape/step_file.h"
#include "shape/exact_shape.h"
#include "shape/kernel_guard.h"
#include <TopoDS_Iterator.hxx>
#include <algorithm>
#include <chrono>
#include <map>
#include <thread>

namespace lp {
namespace {

constexpr size_t most_bytes = size_t(200) << 20, most_entities = 1'500'000;
constexpr double budget_s = 60;

/// Damaged files can lead the library round in circles.
double reading_budget_s(size_t bytes) {
    constexpr double small_s = 6, bytes_a_second = 3e5;
    return std::min(budget_s, small_s + double(bytes) / bytes_a_second);
}

/// A process for each core, but not where a file is read as soon as one has begun.
size_t shares_for(size_t bytes) {
    constexpr size_t most = 4, worth_one = 300'000;
    return std::min({most, size_t(std::thread::hardware_concurrency()), bytes / worth_one});
}

std::optional<Problem> no_helper() {
    if (kernel_is_apart()) return std::nullopt;
    return Problem{ProblemCode::Missing, "Exact files need the geometry kernel's own process, which is not there.",
                   "Install loose-peg-kernel beside the program."};
}

using Bodies = std::vector<StepFileBody>;

Expected<Bodies> bodies_of(const KernelAnswer& answer) {
    Bodies bodies;
    size_t i = 0;
    for (TopoDS_Iterator solid(answer.shape); solid.More() && i < answer.texts.size(); solid.Next(), ++i) {
        auto shape = std::make_shared<ExactShape>();
        shape->shape = solid.Value();
        auto body = Body::from_exact(shape);
        if (!body) return pass_on(body);
        StepFileBody one{answer.texts[i], std::move(*body)};
        if (i < answer.numbers.size() && answer.numbers[i] >= 0) one.colour = uint32_t(answer.numbers[i]);
        bodies.push_back(std::move(one));
    }
    return bodies;
}

/// Every solid of a file, by the helper.
Expected<Bodies> read_solids(const char* what, const std::string& bytes, const Task& task, double budget_s) {
    KernelCall call;
    call.what = what;
    call.texts.push_back(bytes);
    auto answer = run_guarded(call, task, budget_s);
    if (!answer) return pass_on(answer);
    auto bodies = bodies_of(*answer);
    if (bodies && bodies->empty()) return problem(ProblemCode::Geometry, "It holds no solid.", "Export solids.");
    return bodies;
}

/// The same by several helpers, each with its share. Nothing where that did not work out: the file is read whole then.
std::optional<Bodies> read_in_shares(const std::string& bytes, size_t shares, const Task& task, double budget_s) {
    std::vector<KernelAnswer> answers(shares);
    std::vector<char> answered(shares, 0);
    std::vector<std::thread> threads;
    for (size_t i = 0; i < shares; ++i)
        threads.emplace_back([&, i] {
            KernelCall call;
            call.what = "read step";
            call.texts.push_back(bytes);
            call.picks = {int32_t(shares), int32_t(i)};
            auto answer = run_guarded(call, task, budget_s);
            if ((answered[i] = answer && answer->kept.size() == answer->texts.size() + 1))
                answers[i] = std::move(*answer);
        });
    for (std::thread& thread : threads) thread.join();
    std::map<int32_t, Bodies> at_place; // closed shells that are called no solids are read by each
    for (size_t i = 0; i < shares; ++i) {
        if (!answered[i] || answers[i].kept.back() <= 0 || answers[i].kept.back() != answers[0].kept.back()) return {};
        auto bodies = bodies_of(answers[i]);
        if (!bodies || bodies->size() + 1 != answers[i].kept.size()) return {};
        std::map<int32_t, Bodies> its;
        for (size_t k = 0; k < bodies->size(); ++k) its[answers[i].kept[k]].push_back(std::move((*bodies)[k]));
        at_place.merge(its);
    }
    Bodies all;
    for (auto& [place, bodies] : at_place) std::move(bodies.begin(), bodies.end(), std::back_inserter(all));
    if (all.empty()) return {};
    return all;
}

} // namespace

Expected<std::vector<StepFileBody>> read_brep_file(const std::string& bytes, const Task& task) {
    if (auto problem = no_helper()) return tl::unexpected(*problem);
    if (bytes.size() > most_bytes)
        return problem(ProblemCode::File, "It is larger than 200 MB.", "Export fewer parts at once.");
    return read_solids("read brep", bytes, task, reading_budget_s(bytes.size()));
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
    using Clock = std::chrono::steady_clock;
    const Clock::time_point begun = Clock::now();
    double budget_s = reading_budget_s(bytes.size());
    if (const size_t shares = shares_for(bytes.size()); shares > 1) {
        if (auto bodies = read_in_shares(bytes, shares, task, budget_s)) return std::move(*bodies);
        if (task.stopped()) return cancelled();
        budget_s -= std::chrono::duration<double>(Clock::now() - begun).count();
    }
    return read_solids("read step", bytes, task, budget_s);
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
