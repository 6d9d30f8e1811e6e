#include "project/step_store.h"
#include "base/hash.h"
#include <algorithm>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>
#include <unordered_set>

namespace lp {

constexpr uint64_t generations_kept = 24; ///< undo and redo over the last edits stay instant

bool Proof::holds() {
    std::lock_guard lock(mutex_);
    if (open_) {
        // Isolated: a thread that waits within a check must not begin another proof while it holds this one.
        tbb::this_task_arena::isolate([&] { wrong_ = check_or_hold(std::move(checks_)).has_value(); });
        checks_.clear();
        open_ = false;
    }
    return !wrong_;
}

void StepStore::begin_evaluation(Unproved& unproved) {
    std::lock_guard lock(mutex_);
    unproved.epoch = epoch_;
    ++generation_;
    reused_ = made_ = 0;
}

void StepStore::forget_old() {
    std::lock_guard lock(mutex_);
    std::erase_if(steps_, [&](const auto& entry) { return entry.second.generation + generations_kept < generation_; });
    forget_what_is_too_much();
}

void StepStore::forget_what_is_too_much() {
    std::map<uint64_t, std::vector<Body::Weight>> by_age; // by generation
    for (const auto& [key, kept] : steps_) {
        if (!kept.result) continue;
        auto& weights = by_age[kept.generation];
        for (const StepBody& body : kept.result->bodies) {
            weights.push_back(body.body.weight());
            for (const CarriedHalo& halo : body.halos) weights.push_back(halo.envelope.weight());
            for (const SolidInside& solid : body.solids) weights.push_back(solid.where.weight());
        }
    }
    size_t bytes = 0;
    std::unordered_set<const void*> counted; // a body goes through many steps as it is
    for (auto age = by_age.rbegin(); age != by_age.rend(); ++age) {
        for (const Body::Weight& weight : age->second)
            if (counted.insert(weight.of).second) bytes += weight.bytes;
        if (bytes <= most_bytes_ || age->first == generation_) continue;
        std::erase_if(steps_, [&](const auto& entry) { return entry.second.generation <= age->first; });
        return;
    }
}

std::optional<Expected<StepResult>> StepStore::find(uint64_t key, Unproved& unproved) {
    std::lock_guard lock(mutex_);
    auto found = steps_.find(key);
    if (found == steps_.end()) return std::nullopt;
    found->second.generation = generation_;
    ++reused_;
    if (auto& proof = found->second.proof) {
        std::lock_guard note(unproved.mutex);
        unproved.proofs.push_back(proof);
    }
    return found->second.result;
}

void StepStore::keep(uint64_t key, const Expected<StepResult>& result, std::shared_ptr<Proof> proof,
                     Unproved& unproved) {
    std::lock_guard lock(mutex_);
    ++made_;
    if (unproved.epoch != epoch_) return; // it may stand on what was found wrong meanwhile
    steps_[key] = {result, proof, generation_};
    if (!proof) return;
    std::lock_guard note(unproved.mutex);
    unproved.proofs.push_back(std::move(proof));
}

bool StepStore::settle(Unproved& unproved, const Task& task) {
    std::vector<std::shared_ptr<Proof>> proofs;
    {
        std::lock_guard lock(unproved.mutex);
        proofs = unproved.proofs;
    }
    std::sort(proofs.begin(), proofs.end());
    proofs.erase(std::unique(proofs.begin(), proofs.end()), proofs.end());
    std::vector<char> wrong(proofs.size(), 0); // not bool: written from several threads
    tbb::parallel_for(size_t(0), proofs.size(), [&](size_t i) {
        if (!task.stopped()) wrong[i] = !proofs[i]->holds();
    });
    std::lock_guard lock(mutex_);
    for (size_t i = 0; i < proofs.size(); ++i)
        if (wrong[i]) check_at_once_.insert(proofs[i]->step());
    if (std::count(wrong.begin(), wrong.end(), 1)) {
        steps_.clear();
        ++epoch_;
        return false;
    }
    for (auto& [key, kept] : steps_)
        if (kept.proof && !kept.proof->open()) kept.proof.reset();
    return true;
}

bool StepStore::is_checked_at_once(StepId step) const {
    std::lock_guard lock(mutex_);
    return check_at_once_.count(step) > 0;
}

template <class What>
Expected<What> StepStore::read_once(const Project& project, const std::string& file,
                                    std::unordered_map<uint64_t, Expected<What>>& known,
                                    Expected<What> (*read)(const std::string& name, const std::string& bytes)) {
    auto found = project.imports.find(file);
    if (found == project.imports.end() || !found->second)
        return problem(ProblemCode::File, "The file \"" + file + "\" is not in the project.", "Bring it in again.");
    uint64_t key = Hasher().add(std::string_view(*found->second)).value();
    {
        std::lock_guard lock(mutex_);
        if (auto there = known.find(key); there != known.end()) return there->second;
    }
    auto what = read(file, *found->second);
    std::lock_guard lock(mutex_);
    known.emplace(key, what);
    return what;
}

Expected<TriMesh> StepStore::triangles(const Project& project, const std::string& file) {
    return read_once<TriMesh>(project, file, triangles_, read_triangles);
}

Expected<FlatPaths> StepStore::flat(const Project& project, const std::string& file) {
    return read_once<FlatPaths>(project, file, flats_, read_flat);
}

/// Those that are bodies of their own; none of a file that is one mesh, or so many small ones that nobody would name
/// them.
static Expected<std::vector<FileObject>> separate_objects(const std::string& name, const std::string& bytes) {
    constexpr size_t most_bodies = 64;
    const auto format = format_of(name, bytes, false);
    const bool exact = format && (*format)->content == FileFormat::Content::Exact;
    if (!exact && !(format && (*format)->tells_apart)) return std::vector<FileObject>{};
    auto objects = (*format)->read(bytes);
    if (!exact && objects && (objects->size() < 2 || objects->size() > most_bodies)) objects->clear();
    return objects;
}

Expected<std::vector<FileObject>> StepStore::objects(const Project& project, const std::string& file) {
    return read_once<std::vector<FileObject>>(project, file, objects_, separate_objects);
}

size_t StepStore::reused() const {
    std::lock_guard lock(mutex_);
    return reused_;
}

size_t StepStore::made() const {
    std::lock_guard lock(mutex_);
    return made_;
}

} // namespace lp
