// Makes the bodies of one part, and what of other parts its steps ask for.
#pragma once
#include "base/hash.h"
#include "project/contact_situation.h"
#include "project/evaluate.h"
#include "project/step_store.h"

namespace lp {

/// A part made: as it is, or larger.
struct MadePart {
    std::vector<StepBody> bodies;
    std::vector<StepOutcome> outcomes;
    std::vector<PlacedOutline> outlines;
    std::map<StepId, StepPlace> places;
    std::map<StepId, std::vector<StepBody>> before_outline;
    std::map<StepId, std::vector<StepTool>> tools; ///< of the steps that can be repeated
    std::map<StepId, std::vector<StepBody>> after; ///< bodies after each step
    std::map<StepId, uint64_t> key_after;
    uint64_t key = 0;
};

/// For one thread of one evaluation; what it makes lies in the store, where others find it.
class PartMaker {
  public:
    PartMaker(const Project& project, const ParameterValues& values, const Task& task, StepStore& store,
              Unproved& unproved)
        : project_(project), values_(values), task_(task), store_(store), unproved_(unproved) {}

    /// The steps of a part, every outside face `growth` mm further out, its faces named as a copy (0: as it is).
    /// Only being stopped, or a circle of parts, is a Problem; a step that fails says so in its outcome.
    Expected<MadePart> part(const Part& part, double growth, uint64_t copy);

  private:
    StepOutcome run_step(const Part& part, const Step& step, double growth, uint64_t copy, MadePart& grown,
                         const MadePart* nominal);
    StepContext context_for(const Part& part, const Step& step, double growth, uint64_t copy, MadePart& grown);
    Expected<StepResult> found_or_made(const StepKind& kind, uint64_t id, StepContext& context, const MadePart& grown);

    ContactSituation situation(const std::string& name, const Part& host, const std::vector<StepBody>& bodies);
    Expected<std::vector<StepBody>> remade(const Part& part, const Step& step, double growth, uint64_t copy);
    Expected<Transform> from_part_to_part(const std::string& from, const Part& to);
    Expected<std::vector<StepBody>> bodies_so_far(const Part& part);
    std::optional<Problem> add_tool_key(const Part& host, const StepKind& kind, const StepContext& context, Hasher& key,
                                        uint64_t tool_copy);
    std::optional<Problem> add_going_in(const Part& host, const Part& tool, const std::string& fit,
                                        const StepContext& context, Hasher& key, uint64_t tool_copy);
    std::optional<Problem> add_source(const Part& source, const StepKind& kind, const StepContext& context,
                                      Hasher& key);
    Expected<std::optional<StepId>> step_of(const Part& part, const std::string& text);
    Expected<std::vector<StepBody>> bodies_of(const std::string& name, const std::string& after, double growth,
                                              uint64_t copy);
    Expected<std::vector<Body>> part_as_it_is(const std::string& name, const Part& host);
    Expected<Body> tool_body(const std::string& name, double growth, uint64_t copy);
    Expected<Body> envelope_body(const std::string& name, double growth, uint64_t copy);

    const Project& project_;
    const ParameterValues& values_;
    const Task& task_;
    StepStore& store_;
    Unproved& unproved_;
    /// A part that is being made, and its bodies as they are.
    struct Making {
        PartId part;
        const std::vector<StepBody>* bodies;
    };
    std::vector<Making> making_; ///< and those it is made for
};

} // namespace lp
