// Speeds of hardware and lettering: a thread pair, a thread cut into facets, forty screw holes, a word on a round wall.
#include "core/kind_samples.h"
#include "test_meshes.h"
#include <benchmark/benchmark.h>

using namespace lp;
using namespace lp::test;

namespace {

using Parts = std::vector<std::pair<std::string, json>>;

/// The parts made again and again, each time with another number `d`, so that nothing is remembered. Parts that stay
/// the same are made once.
void make_again(benchmark::State& state, const Parts& parts, const std::map<std::string, std::string>& files = {}) {
    json list = json::array();
    for (const auto& [name, steps] : parts) list.push_back({{"name", name}, {"steps", steps}});
    Evaluator evaluator;
    double value = 0;
    auto once = [&] {
        value += 0.0007;
        const json whole{{"format", "loose-peg"},
                         {"version", 1},
                         {"parameters", {{"d", format_number(value, 4) + " mm"}}},
                         {"parts", list}};
        auto project = project_from_text(whole.dump());
        auto own = std::make_shared<Project>(project.value_or(Project{}));
        for (const auto& [name, bytes] : files) own->imports[name] = std::make_shared<const std::string>(bytes);
        return evaluator.evaluate(ProjectPtr(own));
    };
    if (auto first = once(); !first) return state.SkipWithError("it is not evaluated");
    for (auto _ : state) {
        auto made = once();
        for (const PartResult& part : made->parts)
            for (const StepOutcome& outcome : part.steps)
                if (!outcome.ok) return state.SkipWithError(outcome.says.c_str());
    }
}

json thread(const char* does, const char* size, const char* length) {
    return step("thread", {{"size", size}, {"length", length}, {"profile", "round"}, {"does", does}});
}

void thread_pair(benchmark::State& state) {
    json outside = thread("join", "", "12 mm"), inside = thread("cut", "", "14 mm");
    for (json* one : {&outside, &inside}) {
        (*one)["fields"]["diameter"] = "58 mm + d";
        (*one)["fields"]["pitch"] = "4 mm";
    }
    inside["fields"]["at_z"] = "-1 mm";
    make_again(state, {{"Cup", json::array({outside})},
                       {"Ring", json::array({step("cylinder", {{"diameter", 70}, {"height", 12}}), inside})}});
}
BENCHMARK(thread_pair)->Unit(benchmark::kMillisecond)->Iterations(10)->UseRealTime();

void thread_into_20k_facets(benchmark::State& state) {
    const TriMesh ball = test::sphere(20, 71, {0, 0, 20});
    auto bytes = find_format("stl")->write({FileObject{.name = "Knob", .mesh = ball}}, "Knob", {});
    if (!bytes) return state.SkipWithError("no file");
    json cut = thread("cut", "M12", "20 mm");
    cut["fields"]["at_z"] = "-1 mm - d";
    make_again(state, {{"Knob", json::array({step("bring_in", {{"file", "knob.stl"}}), cut})}}, {{"knob.stl", *bytes}});
    state.counters["facets"] = double(ball.triangles.size());
}
BENCHMARK(thread_into_20k_facets)->Unit(benchmark::kMillisecond)->Iterations(10)->UseRealTime();

void forty_screw_holes(benchmark::State& state) {
    const json hole = step(
        "hole_for",
        {{"piece", "M3 x 12 countersunk"}, {"on", "top of box"}, {"at_x", "20 mm + d"}, {"at_y", "15 mm"}}, "hole");
    make_again(
        state,
        {{"Housing",
          json::array({block(180, 110, 4, "box"), hole,
                       step("repeat",
                            {{"steps", "hole"}, {"count", 8}, {"by_x", "20 mm"}, {"rows", 5}, {"row_y", "20 mm"}})})}});
}
BENCHMARK(forty_screw_holes)->Unit(benchmark::kMillisecond)->Iterations(10)->UseRealTime();

void word_on_a_round_wall(benchmark::State& state) {
    const json letters =
        json::array({{{"kind", "text"}, {"points", {{0, 0}}}, {"text", "RUNNER BEANS"}, {"size", "7 mm"}}});
    make_again(state, {{"Pot", json::array({step("cylinder", {{"diameter", 80}, {"height", 40}}, "wall"),
                                            sample_outline("word", letters),
                                            step("extrude", {{"height", "1 mm + d"}, {"does", "new"}}, "letters"),
                                            step("lie_on", {{"what", "letters"},
                                                            {"on", "side of wall"},
                                                            {"height", "16 mm"},
                                                            {"sunk", "0.3 mm"},
                                                            {"does", "join"}})})}});
}
BENCHMARK(word_on_a_round_wall)->Unit(benchmark::kMillisecond)->Iterations(5)->UseRealTime();

} // namespace
