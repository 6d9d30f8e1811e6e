// A kind of step declares itself once: fields, sentence, when it is offered, evaluation. From that come the saved form,
// the sentence editor, the command line's `steps`, the offers, the cache's keys, contacts, renaming and the
// documentation. One kind a file, named by its id, in the folder of its group.
#pragma once
#include "steps/fits/legs.h"
#include "steps/step_context.h"
#include "steps/step_field.h"

namespace lp {

/// Where people look for a kind. The folders of steps/ are called the same.
enum class StepGroup { Solids, Outlines, Edges, Placing, Splitting, Bending, Fits, Meshes };
/// "Solids", "Edges and faces" ...: the heading of a group.
const char* group_title(StepGroup group);

/// What must be chosen in the view for an offer.
enum class Chosen {
    Nothing,
    Face,      ///< one
    Faces,     ///< several of one body
    Edge,      ///< one
    Edges,     ///< one or several of one body
    Body,      ///< a whole part or one of its bodies
    Body2,     ///< the same, of a part with more than one
    TwoThings, ///< two faces or edges of two bodies of one part
    TwoFaces,  ///< two faces of two bodies of one part
    TwoParts,  ///< things of two parts; the one that is not filled in gets the step
    Region     ///< closed regions of an open drawing
};

/// One way in which a kind is offered when something is chosen.
struct StepOffer {
    Chosen when = Chosen::Nothing;
    int place = 0;          ///< in the row of offers: lower ones first
    std::string words = {}; ///< "Shell, open here"; the kind's title when empty
    std::string hint = {};
    std::map<std::string, std::string> fields = {}; ///< besides what the selection fills in
    bool stands_there = false; ///< a solid that stands on the chosen face, or goes into it when `fields` cut
    bool any_body = false;     ///< offered on meshes and stand-ins too, and at every stage
    bool on_mesh = false;      ///< offered on bodies of triangles only
    bool folded = false;       ///< under "More"
    std::string drawing = {};  ///< another line drawing than the kind's: an id of data/icons/acts.svg
};

struct StepKind {
    std::string id;      ///< of the file format: "block"
    std::string title;   ///< of the offers: "Block"
    std::string purpose; ///< one line
    StepGroup group = StepGroup::Solids;
    std::vector<std::string> synonyms; ///< other words of the trade it is found by
    std::vector<StepField> fields;
    std::string sentence;       ///< words with fields in braces: "Block {size_x} by {size_y}"
    int version = 1;            ///< raise when the result changes: part of the cache key
    bool for_printer = false;   ///< made for the printer card's line and overhang limit
    bool needs_exact = false;   ///< works on exact bodies only
    bool takes_away = false;    ///< people look for it where material goes
    bool repeatable = false;    ///< hands out what it joins or cuts, for later steps to repeat
    bool asks_for_file = false; ///< begins with a file that is chosen in a dialog
    bool reports = false;       ///< its note is a report that is worth reading when it worked
    std::string partner =
        {}; ///< id of the kind whose work goes into this one's, on another part, at the gap of the Fit field
    /// Of a kind with a partner: the way the partner's work takes through this one's, from where it stands. `stands`
    /// takes places of the partner's part into this one. A Problem when the partner does not stand on the way.
    std::function<Expected<LedWay>(const StepContext& mine, const StepContext& partner, const Transform& stands)> way;
    std::vector<StepOffer> offers;
    std::function<Expected<StepResult>(const std::vector<StepBody>& before, const StepContext& context)> evaluate;

    const StepField* field(const std::string& name) const;
    /// The first field with a role, of a kind of field; null without one.
    const StepField* field_as(FieldRole role) const;
    const StepField* field_of(FieldKind kind) const;
    /// It draws an outline: it has a field for a drawing.
    bool draws() const { return field_of(FieldKind::Drawing) != nullptr; }
    /// Its contact with the part that goes in has a wanted gap.
    bool makes_contact() const { return field_as(FieldRole::GoesIn) && field_of(FieldKind::Fit); }
};

/// Every kind, in the order they are offered.
const std::vector<StepKind>& step_kinds();
/// Also by an id that older files have for it; null when there is none.
const StepKind* find_step_kind(const std::string& id);

} // namespace lp
