// Projects written by hand in tests, evaluated.
#pragma once
#include "formats/formats.h"
#include "project/edit.h"
#include "project/evaluate.h"
#include "project/project_json.h"
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

namespace lp::test {

using nlohmann::json;

struct Made {
    ProjectPtr project;
    Evaluation evaluation;
    const PartResult& part(size_t i = 0) const { return evaluation.parts.at(i); }
    double volume(size_t i = 0) const { return part(i).mass.volume_mm3; }
    const Body& body(size_t i = 0) const { return part().bodies.at(i).body; }
    const StepOutcome& step(size_t i) const { return part().steps.at(i); }
    /// What failed, one line each.
    std::string says() const {
        std::string text;
        for (const PartResult& p : evaluation.parts)
            for (const StepOutcome& s : p.steps)
                if (!s.ok) text += s.says + "\n";
        return text;
    }
};

/// Several parts, each a name and its steps.
inline Made make_parts(const std::vector<std::pair<std::string, json>>& parts, const json& parameters = json::object(),
                       const std::map<std::string, std::string>& files = {}) {
    json list = json::array();
    for (const auto& [name, steps] : parts) list.push_back({{"name", name}, {"steps", steps}});
    json whole{{"format", "loose-peg"}, {"version", 1}, {"parameters", parameters}, {"parts", list}};
    auto project = project_from_text(whole.dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    Made made;
    auto own = std::make_shared<Project>(project.value_or(Project{}));
    for (const auto& [name, bytes] : files) own->imports[name] = std::make_shared<const std::string>(bytes);
    made.project = own;
    Evaluator evaluator;
    auto evaluation = evaluator.evaluate(own);
    EXPECT_TRUE(evaluation);
    if (evaluation) made.evaluation = std::move(*evaluation);
    return made;
}
inline Made make(const json& steps, const json& parameters = json::object(),
                 const std::map<std::string, std::string>& files = {}) {
    return make_parts({{"P", steps}}, parameters, files);
}
inline json step(const std::string& kind, const json& fields, const std::string& name = {}) {
    json s{{"kind", kind}, {"fields", fields}};
    if (!name.empty()) s["name"] = name;
    return s;
}
/// A block called "b" with its middle over the origin.
inline json block(double x, double y, double z, const std::string& name = "b") {
    return step("block", {{"size_x", x}, {"size_y", y}, {"size_z", z}}, name);
}

} // namespace lp::test
