// Speeds of working the solid: a hundred holes, a housing made again, ornaments joined round a body.
#include "app/main_window.h"
#include "app/view/view_widget.h"
#include "made_project.h"
#include <QApplication>
#include <QTest>
#include <benchmark/benchmark.h>
#include <nlohmann/json.hpp>

using namespace lp;
using namespace lp::test;

namespace {

json housing() {
    return json::array(
        {step("block", {{"size_x", "70 mm"}, {"size_y", "45 mm"}, {"size_z", "h"}}, "box"),
         step("fillet", {{"edges", "upright"}, {"radius", "5 mm"}}),
         step("fillet", {{"edges", "of top of box"}, {"radius", "2 mm"}}),
         step("shell", {{"open", "bottom of box"}, {"wall", "2 mm"}}),
         step("cylinder", {{"diameter", "7 mm"}, {"height", "h - 2 mm"}, {"at_x", "-27 mm"}, {"at_y", "-15 mm"}},
              "post"),
         step("cylinder",
              {{"diameter", "3.4 mm"},
               {"height", "h/2 + 1 mm"},
               {"at_x", "-27 mm"},
               {"at_y", "-15 mm"},
               {"at_z", "-1 mm"},
               {"does", "cut"}},
              "bore"),
         step("cylinder",
              {{"diameter", "2.5 mm"},
               {"height", "h/2 - 2 mm"},
               {"at_x", "-27 mm"},
               {"at_y", "-15 mm"},
               {"at_z", "h/2"},
               {"does", "cut"}},
              "pilot"),
         step("repeat",
              {{"steps", "post, bore, pilot"}, {"count", 2}, {"by_x", "54 mm"}, {"rows", 2}, {"row_y", "30 mm"}}),
         step("block",
              {{"size_x", "2 mm"},
               {"size_y", "24 mm"},
               {"size_z", "6 mm"},
               {"at_x", "-16 mm"},
               {"at_z", "h - 4 mm"},
               {"does", "cut"}},
              "vent"),
         step("repeat", {{"steps", "vent"}, {"count", 9}, {"by_x", "4 mm"}}),
         step("cylinder",
              {{"diameter", "6 mm"},
               {"height", "10 mm"},
               {"along", "x"},
               {"at_x", "28 mm"},
               {"at_z", "h/2"},
               {"does", "cut"}},
              "cord"),
         step("split", {{"by", "xy"}, {"distance", "h/2"}}, "upper"),
         step("fillet", {{"edges", "of side of cord"}, {"radius", "0.3 mm"}})});
}

/// Evaluates again and again with another text in one field.
void again(benchmark::State& state, const json& steps, const json& parameters,
           const std::function<Edit(const Project&, int)>& edit) {
    Made made = make(steps, parameters);
    if (!made.says().empty()) return state.SkipWithError(made.says().c_str());
    Evaluator evaluator;
    ProjectPtr now = made.project;
    (void)evaluator.evaluate(now);
    int round = 0;
    for (auto _ : state) {
        auto edited = apply_edit(*now, edit(*now, ++round));
        if (!edited) return state.SkipWithError(edited.error().text().c_str());
        now = edited->project;
        auto evaluation = evaluator.evaluate(now);
        for (const StepOutcome& s : evaluation->parts[0].steps)
            if (!s.ok) return state.SkipWithError(s.says.c_str());
    }
}

/// Aim: under 300 ms.
void box_minus_100_holes(benchmark::State& state) {
    json steps = json::array(
        {block(120, 120, 6),
         step("cylinder",
              {{"diameter", 4}, {"height", 20}, {"at_x", -50}, {"at_y", -50}, {"at_z", -5}, {"does", "cut"}}, "hole"),
         step("repeat", {{"steps", "hole"}, {"count", 10}, {"by_x", "11 mm"}, {"rows", 10}, {"row_y", "11 mm"}})});
    again(state, steps, json::object(), [](const Project& p, int round) {
        return SetField{p.parts[0]->id, p.parts[0]->steps[1].id, "diameter", std::to_string(4 + 0.001 * round)};
    });
}

/// Aim: under 800 ms.
void housing_after_its_height(benchmark::State& state) {
    again(state, housing(), {{"h", "30 mm"}}, [](const Project&, int round) {
        return SetParameter{"h", std::to_string(30 + 0.01 * round) + " mm", {}, {}};
    });
}

/// Aim: under 150 ms, the rest from the cache.
void housing_after_a_late_fillet(benchmark::State& state) {
    again(state, housing(), {{"h", "30 mm"}}, [](const Project& p, int round) {
        return SetField{p.parts[0]->id, p.parts[0]->steps.back().id, "radius", std::to_string(0.3 + 0.001 * round)};
    });
}

/// Five loops laid on a tapered body and joined with it. Aim: under 1 s.
void ornaments_joined(benchmark::State& state) {
    json steps = json::array(
        {step("cone", {{"diameter", 70}, {"top_diameter", 50}, {"height", 60}}, "pot"),
         step("ring", {{"diameter", 14}, {"thickness", 3}, {"does", "new"}}, "loop"),
         step("skew", {{"what", "loop"}, {"angle", "20 deg"}, {"towards", "x"}, {"along", "y"}}),
         step("lie_on",
              {{"what", "loop"}, {"on", "side of pot"}, {"height", "35 mm"}, {"sunk", "0.5 mm"}, {"does", "join"}},
              "badge"),
         step("repeat_round", {{"steps", "badge"}, {"count", 5}})});
    again(state, steps, json::object(), [](const Project& p, int round) {
        return SetField{p.parts[0]->id, p.parts[0]->steps[3].id, "sunk", std::to_string(0.5 + 0.001 * round)};
    });
}

/// Aim: 20 frames a second, 50 ms each.
void orbit_the_housing(benchmark::State& state) {
    Made made = make(housing(), {{"h", "30 mm"}});
    Scene scene;
    for (const StepBody& b : made.part().bodies) {
        SceneBody body;
        body.shape = b.body.shared_tessellation();
        body.colour = QColor(0xd69b48);
        scene.bodies.push_back(body);
    }
    ViewWidget view;
    view.resize(840, 650);
    view.show();
    view.set_scene(scene);
    view.fit_all();
    if (!QTest::qWaitForWindowExposed(&view)) return state.SkipWithError("the view did not show");
    for (auto _ : state) {
        view.camera().orbit(3, 1);
        view.refresh();
        view.repaint();
    }
}

} // namespace

BENCHMARK(box_minus_100_holes)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(4);
BENCHMARK(housing_after_its_height)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(4);
BENCHMARK(housing_after_a_late_fillet)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(6);
BENCHMARK(ornaments_joined)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(4);
BENCHMARK(orbit_the_housing)->Unit(benchmark::kMillisecond)->UseRealTime()->Iterations(20);
