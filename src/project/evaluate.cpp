#include "project/evaluate.h"
#include "project/part_maker.h"
#include "project/references.h"
#include "project/seating.h"
#include "project/standing.h"
#include <algorithm>
#include <condition_variable>
#include <future>
#include <set>
#include <tbb/parallel_for.h>
#include <thread>

namespace lp {

namespace {

/// Triangles, box and mass of bodies that are shown: each is kept by its body.
void measure(const std::vector<StepBody>& bodies) {
    tbb::parallel_for(size_t(0), bodies.size(), [&](size_t i) {
        bodies[i].body.shared_tessellation();
        bodies[i].body.box();
        bodies[i].body.mass();
    });
}

/// For each part the parts its steps are cut with or take from.
std::vector<std::set<size_t>> sources_of_parts(const Project& project) {
    std::map<PartId, size_t> places;
    for (size_t i = 0; i < project.parts.size(); ++i) places[project.parts[i]->id] = i;
    std::vector<std::set<size_t>> sources(project.parts.size());
    for (size_t i = 0; i < project.parts.size(); ++i)
        for (const Step& step : project.parts[i]->steps)
            each_reference(project, *project.parts[i], step, [&](const Reference& r) {
                if (r.to == RefersTo::Part && places.count(r.part)) sources[i].insert(places[r.part]);
            });
    return sources;
}

/// Makes all parts: those whose sources are made, side by side. What waits for the kernel's process leaves a core to
/// the others.
class SideBySide {
  public:
    SideBySide(const Project& project, const ParameterValues& values, const Task& task, StepStore& store,
               Unproved& unproved)
        : project_(project), values_(values), task_(task), store_(store), unproved_(unproved),
          sources_(sources_of_parts(project)), made_(project.parts.size()), begun_(project.parts.size(), false) {
        told_.cancel = task.cancel;
        told_.progress = [this](const std::string& doing, double share) {
            std::lock_guard lock(telling_);
            task_.tell(doing, share);
        };
    }

    Expected<std::vector<MadePart>> make() {
        const size_t hands =
            std::min<size_t>(project_.parts.size(), std::clamp(std::thread::hardware_concurrency(), 2u, 6u));
        std::vector<std::future<void>> others;
        for (size_t i = 1; i < hands; ++i) others.push_back(std::async(std::launch::async, [this] { work(); }));
        work();
        for (auto& other : others) other.get();
        std::vector<MadePart> all;
        for (auto& grown : made_) {
            if (!grown || !*grown) return grown ? pass_on(*grown) : cancelled();
            all.push_back(std::move(**grown));
        }
        return all;
    }

  private:
    void work() {
        PartMaker maker(project_, values_, told_, store_, unproved_);
        std::unique_lock lock(mutex_);
        while (auto next = take(lock)) {
            const Part& part = *project_.parts[*next];
            lock.unlock();
            told_.tell("Making " + part.name, double(*next) / double(project_.parts.size()));
            auto grown = maker.part(part, 0, 0);
            if (grown) measure(grown->bodies);
            lock.lock();
            failed_ = failed_ || !grown;
            made_[*next] = std::move(grown);
            --running_;
            wake_.notify_all();
        }
    }

    /// The next part that can be made; waits for one. Nothing when all are begun or one could not be made.
    std::optional<size_t> take(std::unique_lock<std::mutex>& lock) {
        for (;;) {
            if (failed_ || std::find(begun_.begin(), begun_.end(), false) == begun_.end()) return std::nullopt;
            for (size_t i = 0; i < begun_.size(); ++i)
                if (!begun_[i] && (ready(i) || running_ == 0)) { // in a circle nothing is ever ready: it says so itself
                    begun_[i] = true;
                    ++running_;
                    return i;
                }
            wake_.wait(lock);
        }
    }

    bool ready(size_t part) const {
        return std::all_of(sources_[part].begin(), sources_[part].end(),
                           [&](size_t s) { return made_[s].has_value(); });
    }

    const Project& project_;
    const ParameterValues& values_;
    const Task& task_;
    StepStore& store_;
    Unproved& unproved_;
    Task told_; ///< tells from one thread at a time
    std::mutex telling_, mutex_;
    std::condition_variable wake_;
    std::vector<std::set<size_t>> sources_;
    std::vector<std::optional<Expected<MadePart>>> made_;
    std::vector<bool> begun_;
    size_t running_ = 0;
    bool failed_ = false;
};

PartResult to_result(const Part& part, MadePart grown) {
    PartResult result;
    result.part = part.id;
    result.name = part.name;
    result.stand_in = part.stand_in;
    result.steps = std::move(grown.outcomes);
    result.bodies = std::move(grown.bodies);
    result.key = grown.key;
    result.outlines = std::move(grown.outlines);
    result.before = std::move(grown.before_outline);
    result.after = std::move(grown.after);
    result.exact = !result.bodies.empty();
    if (result.bodies.empty()) return result;
    auto mesh = std::make_shared<TriMesh>();
    Vec3 moment = Vec3::Zero();
    for (const StepBody& body : result.bodies) {
        // The last check of a kernel's result: it must come out as triangles. The step that made the body says so.
        if (auto wrong = body.body.check_triangles())
            for (StepOutcome& outcome : result.steps)
                if (outcome.step == body.made_by || result.bodies.size() == 1) {
                    outcome.ok = false;
                    outcome.says = wrong->text();
                    outcome.problem = *wrong;
                }
        append(*mesh, body.body.mesh());
        result.box.extend(body.body.box());
        const MassProperties& mass = body.body.mass();
        result.mass.volume_mm3 += mass.volume_mm3;
        result.mass.area_mm2 += mass.area_mm2;
        moment += mass.volume_mm3 * mass.centre;
        result.exact = result.exact && body.body.is_exact();
    }
    result.mass.centre =
        result.mass.volume_mm3 != 0 ? Vec3(moment / result.mass.volume_mm3) : bounding_box(*mesh).center();
    result.mesh = mesh;
    return result;
}

} // namespace

uint64_t cut_copy_id(StepId step) {
    return Hasher(0xc07).add(step).value();
}

bool PartResult::all_ok() const {
    return std::all_of(steps.begin(), steps.end(), [](const StepOutcome& s) { return s.ok; });
}

const PartResult* Evaluation::part(PartId id) const {
    for (const PartResult& p : parts)
        if (p.part == id) return &p;
    return nullptr;
}

Evaluator::Evaluator() : store_(std::make_unique<StepStore>()) {}
Evaluator::~Evaluator() = default;

Evaluator::Counts Evaluator::last_counts() const {
    return {store_->reused(), store_->made()};
}

Expected<Evaluation> Evaluator::make(const ProjectPtr& project, const Task& task) {
    Evaluation evaluation;
    evaluation.project = project;
    evaluation.unproved = std::make_shared<Unproved>();
    store_->begin_evaluation(*evaluation.unproved);
    auto values = project_values(*project);
    if (values)
        evaluation.values = *values;
    else
        evaluation.parameter_problem = values.error();
    auto all = SideBySide(*project, evaluation.values, task, *store_, *evaluation.unproved).make();
    if (!all) return pass_on(all);
    for (size_t i = 0; i < all->size(); ++i)
        evaluation.parts.push_back(to_result(*project->parts[i], std::move((*all)[i])));
    Seating seating(*project, evaluation);
    for (size_t i = 0; i < all->size(); ++i) {
        if (auto place = seating.place_of(*project->parts[i]))
            evaluation.parts[i].place = *place;
        else
            evaluation.parts[i].place_problem = place.error();
    }
    evaluation.standing = std::make_shared<const Standing>(evaluation);
    store_->forget_old();
    return evaluation;
}

bool Evaluator::settle(const Evaluation& evaluation, const Task& task) {
    return store_->settle(*evaluation.unproved, task);
}

Expected<Evaluation> Evaluator::evaluate(const ProjectPtr& project, const Task& task) {
    for (;;) {
        auto evaluation = make(project, task);
        if (!evaluation) return evaluation;
        bool holds = settle(*evaluation, task);
        if (task.stopped()) return cancelled();
        if (holds) return evaluation;
    }
}

} // namespace lp
