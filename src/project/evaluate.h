// From the document to bodies: every part's steps, cached by what goes into them, stopped on request.
#pragma once
#include "project/project.h"
#include <memory>

namespace lp {

class Standing;
class StepStore;
struct Unproved;

struct StepOutcome {
    StepId step;
    bool ok = false;
    bool on = true;
    bool in_part = false; ///< it worked, but not for all it was asked for: `says` names the rest
    std::string says;     ///< the note of a step that worked, or sentence and advice of one that failed
    std::optional<Problem> problem;
    std::optional<FieldCure> cure;        ///< a number that would cure what `says` tells of
    std::vector<SizeHandle> handles = {}; ///< of numbers that can be drawn out by hand, in the design frame
};

struct PartResult {
    PartId part;
    std::string name;
    bool stand_in = false;
    std::vector<StepOutcome> steps;
    std::vector<StepBody> bodies; ///< what is there after the last step, in the design frame; may be empty
    uint64_t key = 0;             ///< fingerprint of all that went into it
    /// All bodies as one mesh; null when there is none.
    std::shared_ptr<const TriMesh> mesh;
    Transform place = Transform::Identity(); ///< from the design frame to the assembly
    std::optional<Problem> place_problem;    ///< why it stands at the origin instead of its place
    Box3 box;                                ///< of all bodies
    MassProperties mass;                     ///< of all bodies; exact where they are
    bool exact = false;                      ///< all bodies are
    std::vector<PlacedOutline> outlines;     ///< drawn by its steps, worked out
    std::map<StepId, std::vector<StepBody>>
        before; ///< bodies each outline step found: what its drawing can stand on and follow
    std::map<StepId, std::vector<StepBody>> after; ///< bodies after each step that worked
    bool all_ok() const;
};

struct Evaluation {
    ProjectPtr project;
    ParameterValues values;
    std::optional<Problem> parameter_problem;
    std::vector<PartResult> parts;            ///< in the order of the project
    std::shared_ptr<const Standing> standing; ///< where movements left the bodies; see standing_of()
    std::shared_ptr<Unproved> unproved;       ///< what it stands on without a proof
    const PartResult* part(PartId id) const;
};

/// Keeps results of steps between evaluations. Safe from any thread.
class Evaluator {
  public:
    Evaluator();
    ~Evaluator();
    /// Makes every part. A step that fails leaves the bodies as they were and says why; the next ones go on.
    /// Returns Cancelled when stopped, never half a result. What the kernel's results have still to prove waits for
    /// `settle`, so that a picture need not.
    Expected<Evaluation> make(const ProjectPtr& project, const Task& task = {});
    /// Makes the checks that waited. False: a result does not hold; make it again, that step is then checked at once.
    bool settle(const Evaluation& evaluation, const Task& task = {});
    /// Made, proved, and made again where a result did not hold.
    Expected<Evaluation> evaluate(const ProjectPtr& project, const Task& task = {});
    /// Results of steps taken from the store and made anew in the last evaluation.
    struct Counts {
        size_t reused = 0, made = 0;
    };
    Counts last_counts() const;

  private:
    std::unique_ptr<StepStore> store_;
};

/// Fingerprint that marks the faces a cut_with step made in its part: the copy number of its grown tool's tags.
uint64_t cut_copy_id(StepId step);

} // namespace lp
