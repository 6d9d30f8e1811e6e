// What is known about an evaluated project: contacts, poses, checks, layers, supports and the estimate.
#pragma once
#include "check/inspection.h"
#include "fit/measuring.h"
#include "layers/layer_plan.h"
#include "project/contact_ledger.h"

namespace lp {

struct PartAnalysis {
    uint64_t part = 0;
    uint64_t key = 0; ///< of the geometry, pose and cards it was made for
    Transform pose = Transform::Identity();
    std::string pose_note; ///< when the face it was laid on is lost
    std::shared_ptr<const TriMesh> posed;
    Inspection inspection; ///< as posed
    Supports supports;
    std::shared_ptr<const Tessellation> supports_shape; ///< what the view draws; null without posts
    std::optional<LayerPlan> plan;
    std::string plan_problem;
};

/// A kept measurement as it is now.
struct MeasureResult {
    uint64_t id = 0;
    std::optional<Measured> found; ///< places in the assembly
    std::string lost;              ///< why there is none
};

struct Analysis {
    std::vector<MeasureResult> measures;
    std::vector<ContactResult> contacts;
    std::vector<std::shared_ptr<const PartAnalysis>> parts; ///< printed parts with a body, in project order
    const PartAnalysis* part(uint64_t id) const;
    /// Sums over all printed parts times their quantity.
    double time_s = 0, mass_g = 0, filament_mm = 0, price = 0;
};

LayerOptions layer_options(const Project& project, const Part& part);

/// What a part's numbers come to: for comparing variants.
struct PartFigures {
    double volume_mm3 = 0;
    Vec3 size_mm = Vec3::Zero();
    double time_s = 0, mass_g = 0;
    std::string problem; ///< the first step that failed, or why it cannot be laid in layers
};
PartFigures figures_of(const Evaluation& evaluation, uint64_t part, const Task& task = {});

/// A kept end found again in the newest bodies.
Expected<Measurable> find_measurable(const Evaluation& evaluation, const MeasuredThing& thing);

/// Reuses what did not change since last time; one at a time.
class Analyser {
  public:
    Expected<Analysis> analyse(const Evaluation& evaluation, const Task& task = {});
    /// Contacts alone: what the command line's `make` needs.
    std::vector<ContactResult> contacts(const Evaluation& evaluation, const Task& task = {}) {
        return ledger_.contacts(evaluation, task);
    }

  private:
    ContactLedger ledger_;
    std::map<uint64_t, std::shared_ptr<const PartAnalysis>> parts_; // by analysis key
};

} // namespace lp
