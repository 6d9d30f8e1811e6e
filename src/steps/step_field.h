// What a field of a step declares of itself: what it holds, what it means to others, what fills it.
#pragma once
#include "base/expression.h"
#include <string>
#include <vector>

namespace lp {

/// What a field holds. The first four are quantities with expressions.
enum class FieldKind {
    Length,
    Angle,
    Count,
    Number,
    Choice,
    Bodies,
    Part,
    Fit,
    File,
    Text,
    Plane,    ///< xy, xz, yz, a face as words ("top of lid"), or a picked face
    Face,     ///< a picked face, or words
    Steps,    ///< steps before this one, by name or number, by commas
    Faces,    ///< several, by semicolons
    Edges,    ///< picked edges or words by semicolons: see find_edges()
    Outline,  ///< name or id of an outline step before this one; empty for the last
    Outlines, ///< several, by commas
    Regions,  ///< see chosen_regions()
    Drawing,  ///< a drawing as JSON
    StepName  ///< a step of the part in the field `of`, by name or number
};
const char* field_kind_name(FieldKind kind);
bool is_quantity(FieldKind kind);
QuantityKind quantity_of(FieldKind kind); ///< of the first four kinds

/// What a field means beyond its own step. Who needs to know asks for the role, never for a name.
enum class FieldRole {
    None,
    GoesIn,   ///< Part: it goes into this one, which is opened for it by the gap of the Fit field
    Source,   ///< Part: its bodies are taken as they are
    Count,    ///< Count: how many copies there are, with the original
    Does,     ///< Choice: joined, cut, common or a body of its own
    StandsOn, ///< Plane: what a solid stands on; AtX, AtY, AtZ are counted there
    AtX,
    AtY,
    AtZ,
    Along, ///< Choice: which way a solid points
    Radius ///< Length: a number told as a diameter ("⌀6") is halved
};

/// What of a selection fills a field when the step is added.
enum class Filler {
    Nothing,
    Edges,       ///< every chosen edge, or the edges of every chosen face
    Faces,       ///< every chosen face
    NextFace,    ///< one chosen face, the next field the next one
    LastFace,    ///< the face chosen last
    FirstThing,  ///< the first of two chosen faces or edges
    SecondThing, ///< the second
    Makers,      ///< the steps that made the chosen faces
    OtherPart    ///< the part chosen besides the one that gets the step
};

struct StepField {
    std::string name;
    FieldKind kind = FieldKind::Length;
    std::string standard;     ///< value taken when the step does not give one; empty = must be given, unless optional
    double low = 0, high = 0; ///< limits of quantities, both included; low = high = 0 for none
    std::vector<std::string> choices; ///< of a Choice; other words a Bodies field takes besides names
    std::string hint;
    FieldRole role = FieldRole::None;
    bool may_be_empty = false;
    std::string when_empty = {}; ///< words a person reads for an empty field; "choose …" when it has none
    Filler filler = Filler::Nothing;
    std::string of = {}; ///< names are of steps and bodies of the part this field names; empty: of its own part

    // The same with one thing more, for declarations.
    StepField as(FieldRole its) const;
    StepField optional(const char* words = "none") const;
    StepField filled_by(Filler its) const;
    StepField of_part(const char* field) const;
};

/// What is typed into a field of a quantity, in mm or degrees or as it is. Refused as evaluate_expression() does.
Expected<double> number_in_field(const StepField& field, const std::string& text, const ParameterValues& values);

} // namespace lp
