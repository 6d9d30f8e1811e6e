// The one index of what a document says: every expression and every reference in it, where it stands, and a way to
// write it anew. Renaming, removing, uses, copies of steps, variants and imports ask here; nothing else searches.
#pragma once
#include "project/project.h"

namespace lp {

/// Where an expression or a reference stands.
struct Place {
    enum class In {
        Parameter, ///< `name` is the parameter's
        Step,      ///< field `name` of a step
        Position,  ///< where a part stands in the assembly; `name` says which number
        Pose,      ///< how a part lies on the bed
        Variant,   ///< `name` is the variant's
        Contact,   ///< a wanted contact; `name` is its other side's
        Measure,   ///< a kept measurement
        Movement,  ///< a kept movement; `name` says which of its fields
        Number     ///< of a card, a fit or supports; `name` is its key (typed_numbers.h)
    };
    In in = In::Parameter;
    PartId part = {};
    StepId step = {};
    MeasureId measure = {};
    MovementId movement = {};
    std::string name = {};
    std::string words = {}; ///< for a person: "Bucket, step 3, diameter"
};

struct Expression {
    Place place;
    std::string text;
};

/// What a reference names.
enum class RefersTo {
    Part,      ///< `name` is a part's
    Body,      ///< a body of `part` (or all of it when `name` is empty)
    Step,      ///< a step of `part`, by its name or number
    Face,      ///< a face or edge picked on `part`, that the step `step` made
    Parameter, ///< by being the key of a variant's number
    File,
    Fit
};

struct Reference {
    Place place;
    RefersTo to = RefersTo::Part;
    std::string name; ///< as written there
    PartId part;      ///< whose step, body or face is meant; for Part: the one of that name, none when there is none
    StepId step;      ///< the step meant, where one is found: the one of that name or number, or the face's maker
};

/// Calls back with every expression of the document: quantities, gaps, dimensions of drawings, places, turns,
/// movements, variants.
void each_expression(const Project& project, const std::function<void(const Expression&)>& call);
/// The same of one step.
void each_expression(const Project& project, const Part& part, const Step& step,
                     const std::function<void(const Expression&)>& call);
/// Calls back with every reference; names in a list one by one.
void each_reference(const Project& project, const std::function<void(const Reference&)>& call);
void each_reference(const Project& project, const Part& part, const Step& step,
                    const std::function<void(const Reference&)>& call);

/// The document with expressions or references written anew: the callback's answer takes the place of the text; no
/// answer leaves it. Parts nothing changes in stay shared.
using NewText = std::optional<std::string>;
Project with_expressions(const Project& project, const std::function<NewText(const Expression&)>& call);
Project with_references(const Project& project, const std::function<NewText(const Reference&)>& call);
/// A step written anew.
Step with_references(const Project& project, const Part& part, const Step& step,
                     const std::function<NewText(const Reference&)>& call);

/// Where each name that expressions use is used, in one walk: "Bucket, step 3, diameter" or "parameter bore_d".
std::map<std::string, std::vector<std::string>> uses_of_parameters(const Project& project);
/// The same of one.
std::vector<std::string> uses_of_parameter(const Project& project, const std::string& name);
/// Where a part is used by others: by their steps. What is only about the part (contacts, measures, movements of it)
/// goes with it and does not count.
std::vector<std::string> uses_of_part(const Project& project, const Part& part);
/// Steps of the part, other than itself, that the step refers to by name, number or face.
std::vector<StepId> steps_used_by(const Project& project, const Part& part, const Step& step);
/// Why the step may not stand at `index` of its part: it would come before something it refers to, or after something
/// that refers to it. Nothing when it may.
std::optional<Problem> check_move(const Project& project, const Part& part, StepId step, size_t index);
/// Files that steps and drawings of the project name.
std::vector<std::string> files_named(const Project& project);

} // namespace lp
