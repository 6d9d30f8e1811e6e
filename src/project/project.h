// The document: an immutable value. Edits make the next one and share what did not change.
#pragma once
#include "base/expression.h"
#include "bed/pose.h"
#include "bed/posts.h"
#include "fit/fits.h"
#include "steps/step_kind.h"
#include <nlohmann/json.hpp>
#include <optional>

namespace lp {

/// One sentence of a part's build sheet. All values are kept as typed.
struct Step {
    uint64_t id = 0; ///< unique in the project, never used again
    std::string kind;
    std::string name;  ///< given by the maker; may be empty
    std::string group; ///< steps next to each other with the same group fold together; empty: none
    bool on = true;
    std::map<std::string, std::string> fields;
    nlohmann::json extra; ///< fields of later versions, kept
    bool operator==(const Step&) const = default;
};

/// How a part lies when printed. Kept apart from where it stands in the design.
struct PrintPose {
    Vec3 down{0, 0, -1};               ///< direction in the design that points at the bed
    std::optional<FaceReference> face; ///< the face it was laid on, followed when numbers change
    std::array<std::string, 3> turn{"0 deg", "0 deg", "0 deg"}; ///< typed turns about x, y, z after laying
    bool operator==(const PrintPose&) const = default;
};

struct SupportSettings {
    bool on = false;
    PostOptions posts;
    bool operator==(const SupportSettings&) const = default;
};

struct Part {
    uint64_t id = 0;
    std::string name;
    bool stand_in = false; ///< a bought thing: shown, cut with, never printed or exported
    int quantity = 1;
    std::string colour = "#d69b48";
    bool visible = true;
    bool see_through = false;
    std::vector<Step> steps;
    PrintPose pose;
    SupportSettings supports;
    nlohmann::json extra;
    bool operator==(const Part&) const = default;
};
using PartPtr = std::shared_ptr<const Part>;

/// A wanted fit between two parts that no step makes: measured only.
struct WantedContact {
    std::string a, b; ///< names of parts
    std::string fit;  ///< a named fit or a length
    bool operator==(const WantedContact&) const = default;
};

struct Project {
    std::string name = "Untitled";
    std::vector<Parameter> parameters;
    std::vector<PartPtr> parts;
    std::vector<WantedContact> contacts;
    std::vector<NamedFit> fits = standard_fits();
    PrinterCard printer;
    MaterialCard material;
    std::map<std::string, std::shared_ptr<const std::string>> imports; ///< foreign files as they came, by name
    uint64_t next_id = 1;
    nlohmann::json extra;

    PartPtr part(uint64_t id) const;
    PartPtr part_named(const std::string& name) const;
    const Step* step(uint64_t part, uint64_t step) const;
};
using ProjectPtr = std::shared_ptr<const Project>;

/// The value of a field as typed, or the kind's standard.
std::string field_text(const Step& step, const StepField& field);
/// Gap of a fit field: a named fit of the project, or a typed length.
Expected<ResolvedFit> resolve_fit_field(const Project& project, const std::string& text, const std::string& tool_part,
                                        const ParameterValues& values);
/// The named numbers worked out, and the named fits as lengths under their names (in_place for in-place): what
/// expressions may use.
Expected<ParameterValues> project_values(const Project& project);
/// Calls back with every expression of a step and words for it; a change is kept when `change` is set.
void each_expression(Step& step, const StepKind& kind, bool change,
                     const std::function<void(const std::string& where, std::string& text)>& call);
/// Where a parameter is used: "bucket, step 3, diameter" or "parameter bore_d".
std::vector<std::string> uses_of_parameter(const Project& project, const std::string& name);

} // namespace lp
