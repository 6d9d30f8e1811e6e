// All contacts of a project, measured: made by steps, wanted by name, or found because bodies come near each other.
#pragma once
#include "fit/facing.h"
#include "project/evaluate.h"

namespace lp {

/// Distance below which two bodies without a wanted fit are listed.
inline constexpr double near_mm = 1.0;

/// Which contact is meant, also after everything was measured anew.
struct ContactRef {
    std::string a, b;
    StepId step;
    bool operator==(const ContactRef&) const = default;
};

/// A contact of what goes in (a) and what it goes into (b). Names are of parts; of one body among several of its part
/// "part/body". Places are in the assembly.
struct ContactResult {
    std::string a, b;
    PartId part_a, part_b;
    std::optional<size_t> body_a, body_b; ///< none: all bodies of the part
    StepId step;     ///< of part_b, that makes room for what goes in; or that gave the halo; none for others
    std::string fit; ///< as typed; empty when unset
    std::optional<ResolvedFit> wanted;
    std::optional<GapMeasure> gap;    ///< none when the bodies are farther apart than looked for
    FitState state = FitState::Unset; ///< as it will be printed: a gap that the print closes touches
    std::optional<FacingFigures> facing;
    std::optional<FusedLayers> fused;  ///< of bodies printed together: where the print closes the gap
    std::optional<Vec3> closed_at_bed; ///< a place where the first layer alone closes it

    /// Bodies of one part that touch or overlap: there is only one thing to print.
    bool one_lump() const { return part_a == part_b && gap && gap->touching; }
    /// Something is to be settled here: it is not as wanted, or touches though nothing is wanted.
    bool open() const { return state != FitState::Right && state != FitState::Unset; }
    ContactRef ref() const { return {a, b, step}; }
};

/// One body of a part, or all of it, where it stands in the assembly.
struct Participant {
    PartId part;
    std::optional<size_t> body; ///< none: all bodies
    std::string name;
};
/// Every body of every part.
std::vector<Participant> participants(const Evaluation& evaluation);
/// A participant by name: "part" or "part/body".
std::optional<Participant> find_participant(const Evaluation& evaluation, const std::string& name);

/// Keeps what it measured: after a change only pairs with a changed body are measured again, several at a time. One
/// evaluation at a time.
class ContactLedger {
  public:
    std::vector<ContactResult> contacts(const Evaluation& evaluation, const Task& task = {});
    /// Made ready for distances, where it stands in the assembly; null without a body.
    std::shared_ptr<const MeasuredBody> measured(const Evaluation& evaluation, const Participant& participant);

  private:
    struct Pair {
        std::optional<GapMeasure> gap;
        std::vector<FacingSample> samples;
        uint64_t sections = 0; ///< what `in_sections` was worked out for: pose and printer
        std::optional<FusedLayers> in_sections;
        std::optional<Vec3> closed_at_bed;
        uint64_t used = 0;
    };
    struct Kept {
        std::vector<std::shared_ptr<const Tessellation>> of; ///< keeps their addresses taken: they are the key
        std::shared_ptr<const MeasuredBody> body;
        uint64_t used = 0;
    };
    struct Question;
    std::vector<Question> questions(const Evaluation& evaluation, const Task& task);
    void measure(const Evaluation& evaluation, std::vector<Question>& questions, const Task& task);
    void judge(const Evaluation& evaluation, Question& question, const Task& task);
    std::optional<FusedLayers> fused(const Evaluation& evaluation, const Question& question, Pair& pair,
                                     const Transform& to_print, const Task& task);
    void forget_old();

    std::map<uint64_t, Kept> bodies_; // by what they are made of and where they stand
    std::map<uint64_t, Pair> pairs_;
    uint64_t round_ = 0;
};

/// Where the bodies of a part go on the bed.
Transform pose_of_part(const Part& part, const PartResult& result, const ParameterValues& values,
                       std::string* note = nullptr);

} // namespace lp
