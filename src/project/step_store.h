// Results of steps between evaluations, and what they have still to prove.
#pragma once
#include "formats/formats.h"
#include "project/project.h"
#include "shape/held_checks.h"
#include <atomic>
#include <mutex>
#include <set>

namespace lp {

/// What the kernel's result of one step has still to prove. Safe from any thread; looked at once.
class Proof {
  public:
    Proof(StepId step, std::vector<BodyCheck> checks) : step_(step), checks_(std::move(checks)) {}
    StepId step() const { return step_; }
    bool open() const { return open_; }
    /// Makes the checks that were not made yet; whether the result holds.
    bool holds();

  private:
    StepId step_;
    std::mutex mutex_; ///< held while the checks are made
    std::vector<BodyCheck> checks_;
    std::atomic<bool> open_{true};
    bool wrong_ = false;
};

/// What one evaluation stands on without a proof. Safe from any thread.
struct Unproved {
    std::mutex mutex;
    std::vector<std::shared_ptr<Proof>> proofs;
    uint64_t epoch =
        0; ///< how often results had been let go when it began: what it made before the last time is not kept
};

/// Safe from any thread.
class StepStore {
  public:
    static constexpr size_t usual_bytes = size_t(768) << 20;
    /// What the last evaluation did not ask for goes sooner when all that is kept is larger than this.
    explicit StepStore(size_t most_bytes = usual_bytes) : most_bytes_(most_bytes) {}
    void begin_evaluation(Unproved& unproved);
    /// Lets go what the last evaluations did not ask for.
    void forget_old();

    /// A result under its key; a proof it still lacks is noted.
    std::optional<Expected<StepResult>> find(uint64_t key, Unproved& unproved);
    void keep(uint64_t key, const Expected<StepResult>& result, std::shared_ptr<Proof> proof, Unproved& unproved);
    /// Makes all checks that are left, or those made until it is stopped. False: one failed; as anything may stand on
    /// it, all results are gone, and that step's are checked at once from now on.
    bool settle(Unproved& unproved, const Task& task);
    bool is_checked_at_once(StepId step) const;

    /// What a file of the project holds, read once.
    Expected<TriMesh> triangles(const Project& project, const std::string& file);
    Expected<FlatPaths> flat(const Project& project, const std::string& file);
    /// Bodies that a file tells apart: exact ones, and named objects of triangles; empty for a file of one mesh.
    Expected<std::vector<FileObject>> objects(const Project& project, const std::string& file);

    /// In the last evaluation.
    size_t reused() const;
    size_t made() const;

  private:
    struct Kept {
        Expected<StepResult> result = problem(ProblemCode::Missing, "Not made yet.");
        std::shared_ptr<Proof> proof; ///< null: none is lacking
        uint64_t generation = 0;
    };
    template <class What>
    Expected<What> read_once(const Project& project, const std::string& file,
                             std::unordered_map<uint64_t, Expected<What>>& known,
                             Expected<What> (*read)(const std::string& name, const std::string& bytes));

    /// Called with the mutex held: the oldest go until the rest is no larger than may be.
    void forget_what_is_too_much();

    const size_t most_bytes_;
    mutable std::mutex mutex_;
    std::unordered_map<uint64_t, Kept> steps_;
    std::unordered_map<uint64_t, Expected<TriMesh>> triangles_;
    std::unordered_map<uint64_t, Expected<FlatPaths>> flats_;
    std::unordered_map<uint64_t, Expected<std::vector<FileObject>>> objects_;
    std::set<StepId> check_at_once_; ///< steps whose results turned out wrong once
    uint64_t generation_ = 0, epoch_ = 0;
    size_t reused_ = 0, made_ = 0;
};

} // namespace lp
