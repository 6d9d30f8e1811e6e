// What is known about an evaluated project: contacts, poses, checks, layers, supports and the estimate. The analyses
// are a list; what the stretch of work shows is worked out first.
#pragma once
#include "check/inspection.h"
#include "layers/layer_plan.h"
#include "project/bed_plan.h"
#include "project/contact_ledger.h"
#include "project/flared_rims.h"
#include "project/kept_measures.h"
#include "project/part_print.h"
#include "project/pauses.h"
#include "project/surface_map.h"

namespace lp {

/// The stretches of the work, in the order people do them.
enum class Stretch { Shape, Fit, Check, Bed, Export };

/// One kind of thing that is worked out. A new one is a row of analyses() and its working out.
enum class AnalysisKind { Measures, Contacts, Inspection, Supports, Plan, Walls, Beds };
struct AnalysisRow {
    AnalysisKind kind;
    const char* doing;             ///< "Measuring contacts"
    double cost;                   ///< its usual share of the time, against the others
    bool of_each_part;             ///< else of the project
    std::vector<Stretch> shown_at; ///< stretches that show it
    bool dear = false;             ///< comes last, and in the window only where it is shown or a finding hangs on it
};
const std::vector<AnalysisRow>& analyses();

struct PartAnalysis {
    PartId part;
    Transform pose = Transform::Identity();
    std::string pose_note; ///< when the face it was laid on is lost
    std::string mark_note; ///< when a marked face is
    std::shared_ptr<const TriMesh> posed;
    Inspection inspection;                                  ///< as posed
    std::vector<FlaredRim> rims;                            ///< round ones on the bed
    std::vector<std::shared_ptr<const SurfaceMap>> hanging; ///< a map a body
    Supports supports;
    std::shared_ptr<const Tessellation> supports_shape; ///< what the view draws; null without posts
    std::optional<LayerPlan> plan;
    std::string plan_problem;
    std::vector<PartPause> pauses; ///< where bought things are laid in
};

struct Analysis {
    std::vector<MeasureResult> measures;
    std::vector<ContactResult> contacts;
    std::vector<std::shared_ptr<const PartAnalysis>> parts; ///< printed parts with a body, in project order
    std::vector<BedTrouble> beds;                           ///< copies put where they cannot stay
    const PartAnalysis* part(PartId id) const;
    const ContactResult* contact(const ContactRef& ref) const;
    /// Sums over all printed parts times their quantity.
    double time_s = 0, mass_g = 0, filament_mm = 0, price = 0, energy_kwh = 0, energy_price = 0;
};

/// Which results are wanted before the others.
struct Wanted {
    Stretch stretch = Stretch::Shape;
    PartId part;
};

/// Keeps what it worked out, under a key of all that went into it; one at a time.
class Analyser {
  public:
    Analyser();
    ~Analyser();
    /// Everything. `first` is called once, when what is wanted first is there: the rest is as it was known before.
    Expected<Analysis> analyse(const Evaluation& evaluation, const Task& task = {}, const Wanted& wanted = {},
                               const std::function<void(const Analysis&)>& first = {});
    /// Contacts alone: what the command line's `make` needs.
    std::vector<ContactResult> contacts(const Evaluation& evaluation, const Task& task = {});
    /// Results taken from the cache and worked out anew the last time.
    struct Counts {
        size_t reused = 0, made = 0;
    };
    Counts last_counts() const;

  private:
    struct Cache;
    std::unique_ptr<Cache> cache_;
};

} // namespace lp
