#include "project/evaluate.h"
#include "formats/formats.h"
#include "mesh/grow.h"
#include "mesh/soundness.h"
#include "project/contact_situation.h"
#include "project/read_fields.h"
#include "shape/copies.h"
#include "shape/mesh_distance.h"
#include "steps/fits/envelope.h"
#include "steps/meshes/mend.h"
#include <algorithm>
#include <chrono>
#include <future>
#include <set>
#include <tbb/parallel_for.h>

namespace lp {

namespace {
struct Cached {
    Expected<StepResult> result = problem(ProblemCode::Missing, "Not made yet.");
    uint64_t generation = 0;
};
constexpr uint64_t generations_kept = 24; ///< undo and redo over the last edits stay instant
} // namespace

struct Evaluator::Cache {
    std::mutex mutex;
    std::unordered_map<uint64_t, Cached> steps;
    std::unordered_map<uint64_t, Expected<TriMesh>> imports;
    std::unordered_map<uint64_t, Expected<FlatPaths>> flats;
    std::set<StepId> check_at_once; ///< steps whose results turned out wrong once: what follows waits for their check
    uint64_t generation = 0;
    Counts counts;
};

namespace {

bool bounds_nothing(const StepBody& body) {
    if (body.body.is_exact()) return false;
    Soundness sound = check_soundness(body.body.mesh(), {.self_intersections = false});
    return !sound.closed || sound.inconsistent_edges || sound.inside_out;
}

/// Triangles that a step made of bodies that were closed must be closed again, whoever made them.
std::optional<Problem> left_open(const StepResult& result, const std::vector<StepBody>& before) {
    auto closed = [](const StepBody& body) { return body.body.is_exact() || is_closed(body.body.mesh()); };
    for (const StepBody& body : result.bodies) {
        if (body.body.is_exact()) continue;
        bool there = std::any_of(before.begin(), before.end(), [&](const StepBody& b) {
            return !b.body.is_exact() && b.body.shared_tessellation() == body.body.shared_tessellation();
        });
        if (there || closed(body)) continue;
        if (!std::all_of(before.begin(), before.end(), closed)) continue; // it came open
        return Problem{ProblemCode::Open, "The triangles of the result do not close.",
                       "Change a size a little, or move the body by 0.01 mm."};
    }
    return std::nullopt;
}

/// One evaluation of one snapshot.
class Run {
  public:
    using Find = std::function<std::optional<Expected<StepResult>>(uint64_t key)>;
    using Keep = std::function<void(uint64_t key, const Expected<StepResult>& result)>;
    using Import = std::function<Expected<TriMesh>(const std::string& file)>;
    using Flat = std::function<Expected<FlatPaths>(const std::string& file)>;

    Run(const Project& project, const ParameterValues& values, const Task& task, Find find, Keep keep, Import import,
        Flat flat, std::set<StepId>& check_at_once)
        : project_(project), values_(values), task_(task), find_(std::move(find)), keep_(std::move(keep)),
          import_(std::move(import)), flat_(std::move(flat)), check_at_once_(check_at_once) {}

    struct Grown {
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

    /// The steps of a part. Checks of results run beside the steps that follow; one that fails has its step made again
    /// with its checks at once, and nothing made on top of it is kept.
    Expected<Grown> part(const Part& part, double growth, uint64_t copy) {
        for (;;) {
            Pending* outer = std::exchange(pending_, nullptr);
            Pending mine;
            pending_ = &mine;
            auto grown = run_steps(part, growth, copy);
            pending_ = outer;
            bool sound = true;
            for (Made& made : mine) {
                sound = made.settle(true);
                if (!sound) {
                    check_at_once_.insert(made.step);
                    break;
                }
                if (!task_.stopped()) keep_(made.key, made.result);
            }
            if (sound || task_.stopped()) return grown;
        }
    }

  private:
    /// A result that is not sure yet, or stands on one.
    struct Made {
        StepId step;
        uint64_t key = 0;
        Expected<StepResult> result;
        std::vector<std::future<std::optional<Problem>>> checks;
        bool sound = true; ///< as far as its checks are done

        bool settle(bool wait) {
            for (auto& check : checks) {
                bool done =
                    check.valid() && (wait || check.wait_for(std::chrono::seconds(0)) == std::future_status::ready);
                if (done && check.get()) sound = false;
            }
            return sound;
        }
    };
    using Pending = std::vector<Made>;

    /// Whether a step turned out wrong meanwhile: what follows it would be made in vain. After a failed step the
    /// checks are waited for: what it stands on may be why.
    bool turned_out_wrong(bool wait) {
        return std::any_of(pending_->begin(), pending_->end(), [&](Made& made) { return !made.settle(wait); });
    }

    Expected<Grown> run_steps(const Part& part, double growth, uint64_t copy) {
        if (std::find(making_.begin(), making_.end(), part.id) != making_.end()) {
            std::string loop;
            for (PartId id : making_) loop += project_.part(id)->name + " → ";
            return problem(ProblemCode::Missing,
                           "These parts are cut with each other in a circle: " + loop + part.name + ".",
                           "Remove one of those steps.");
        }
        making_.push_back(part.id);
        Grown grown;
        // What is remade larger stands and is drawn where the part as it is has it.
        std::optional<Grown> nominal;
        if (growth != 0 || copy != 0) {
            making_.pop_back();
            auto as_it_is = this->part(part, 0, 0);
            if (!as_it_is) return as_it_is;
            nominal = std::move(*as_it_is);
            making_.push_back(part.id);
        }
        grown.key = Hasher(0x517e).add(growth).add(copy).value();
        for (const Step& step : part.steps) {
            if (task_.stopped()) break;
            const StepPlace* place = nullptr;
            if (nominal)
                if (auto found = nominal->places.find(step.id); found != nominal->places.end()) place = &found->second;
            grown.outcomes.push_back(run_step(part, step, growth, copy, grown, place));
            if (turned_out_wrong(!grown.outcomes.back().ok)) break; // part() makes it again
        }
        making_.pop_back();
        if (task_.stopped()) return cancelled();
        return grown;
    }

    StepOutcome run_step(const Part& part, const Step& step, double growth, uint64_t copy, Grown& grown,
                         const StepPlace* nominal) {
        StepOutcome outcome{step.id, false, step.on, false, {}, {}, {}};
        if (!step.on) {
            outcome.ok = true;
            return outcome;
        }
        auto fail = [&](Problem why) {
            // What does not bound a body here can be mended here, before this step.
            if (why.code == ProblemCode::Open && std::any_of(grown.bodies.begin(), grown.bodies.end(), bounds_nothing))
                why.cure = mend_before();
            // Without the outline that failed before, the reason is there.
            const StepKind* its = find_step_kind(step.kind);
            if (why.code == ProblemCode::Missing && its && its->field_of(FieldKind::Outline) && grown.outlines.empty())
                for (size_t i = 0; i < grown.outcomes.size() && i < part.steps.size(); ++i)
                    if (const StepKind* drawn = find_step_kind(part.steps[i].kind);
                        drawn && drawn->draws() && !grown.outcomes[i].ok) {
                        why.sentence =
                            "The outline it is made from did not come out: see step " + std::to_string(i + 1) + ".";
                        why.advice = "Mend that step first.";
                        break;
                    }
            outcome.says = why.text();
            outcome.cure = why.cure;
            outcome.problem = std::move(why);
            return outcome;
        };
        const StepKind* kind = find_step_kind(step.kind);
        if (!kind)
            return fail({ProblemCode::Missing, "This kind of step is not known here: " + step.kind + ".",
                         "Open the project with a later version."});
        StepContext context = context_for(part, step, growth, copy, grown);
        Hasher key(grown.key);
        key.add(kind->id).add(kind->version).add(step.id).add(std::string_view(step.name));
        if (auto wrong = read_fields(project_, values_, part, step, *kind, context, key)) return fail(*wrong);
        if (kind->for_printer) key.add(context.line_mm).add(context.overhang_limit_deg);
        if (nominal) context.nominal = *nominal;
        // What a tool is made of belongs to the key: it is made (or found) first.
        if (auto wrong = add_tool_key(part, *kind, context, key, cut_copy_id(step.id) ^ copy)) return fail(*wrong);
        const uint64_t id = key.value();
        Expected<StepResult> result = found_or_made(*kind, id, context, grown);
        if (!result) return fail(result.error());
        take_result(step, id, *result, grown);
        outcome.ok = true;
        outcome.says = result->note;
        outcome.in_part = result->in_part;
        outcome.cure = result->cure;
        return outcome;
    }

    /// What a step may ask for, its fields not read yet.
    StepContext context_for(const Part& part, const Step& step, double growth, uint64_t copy, Grown& grown) {
        StepContext context;
        context.step_id = step.id;
        context.name = step.name;
        context.copy = copy;
        context.growth_mm = growth;
        context.task = task_;
        context.parameters = values_;
        context.import_mesh = import_;
        context.import_paths = flat_;
        context.outlines = grown.outlines;
        context.line_mm = project_.printer.line_mm();
        context.overhang_limit_deg = project_.printer.overhang_limit_deg;
        const uint64_t tool_copy = cut_copy_id(step.id) ^ copy;
        context.part_body = [this, tool_copy, &part](const std::string& name, double by) -> Expected<Body> {
            auto body = tool_body(name, by, tool_copy);
            auto way = from_part_to_part(name, part);
            if (!body || !way || way->isApprox(Transform::Identity(), 0)) return body;
            return moved(*body, *way);
        };
        context.part_as_it_is = [this, &part](const std::string& name) { return part_as_it_is(name, part); };
        context.fit_gap = [this, &part, &grown](const std::string& fit, const std::string& tool) -> Expected<double> {
            auto resolved = resolve_fit_field(project_, fit, situation(tool, part, grown.bodies), values_);
            if (!resolved) return pass_on(resolved);
            return resolved->gap_mm;
        };
        context.remade = [this, &part, &step, tool_copy](double by) { return remade(part, step, by, tool_copy); };
        context.step_named = [&part](const std::string& name) -> std::optional<StepId> {
            const Step* step = step_called(part, name);
            return step ? std::optional(step->id) : std::nullopt;
        };
        context.tools_of = [&grown](StepId id) {
            auto found = grown.tools.find(id);
            return found == grown.tools.end() ? std::vector<StepTool>{} : found->second;
        };
        context.bodies_of = [this, growth, copy](const std::string& name, const std::string& after) {
            return bodies_of(name, after, growth, copy);
        };
        return context;
    }

    /// From the cache, or made; what is not sure yet waits for its checks.
    Expected<StepResult> found_or_made(const StepKind& kind, uint64_t id, StepContext& context, const Grown& grown) {
        if (auto found = find_(id)) return *found;
        std::vector<std::future<std::optional<Problem>>> checks;
        if (!check_at_once_.count(context.step_id))
            context.check_later = [&checks](std::function<std::optional<Problem>()> check) {
                checks.push_back(std::async(std::launch::async, std::move(check)));
            };
        Expected<StepResult> result = kind.evaluate(grown.bodies, context);
        if (result && kind.group != StepGroup::Meshes)
            if (auto open = left_open(*result, grown.bodies)) result = pass_on(*open);
        // A crash is no result: the same call may work next time.
        bool lasting = result || result.error().code != ProblemCode::Crashed;
        if (task_.stopped() || !lasting) return result;
        if (checks.empty() && pending_->empty())
            keep_(id, result);
        else
            pending_->push_back({context.step_id, id, result, std::move(checks)});
        return result;
    }

    static void take_result(const Step& step, uint64_t id, const StepResult& result, Grown& grown) {
        if (result.place) {
            grown.places[step.id] = *result.place;
            if (result.place->outline) {
                grown.outlines.push_back(*result.place->outline);
                grown.before_outline[step.id] = grown.bodies;
            }
        }
        grown.key = id;
        grown.bodies = result.bodies;
        if (!result.tools.empty()) grown.tools[step.id] = result.tools;
        grown.after[step.id] = grown.bodies;
        grown.key_after[step.id] = id;
    }

    /// What the contact with a part that goes into `host` is like.
    ContactSituation situation(const std::string& name, const Part& host, const std::vector<StepBody>& bodies) {
        PartPtr tool = project_.part_named(name);
        if (!tool) return {};
        auto nominal = part(*tool, 0, 0);
        return contact_situation(project_, values_, host, bodies, *tool,
                                 nominal ? nominal->bodies : std::vector<StepBody>{});
    }

    /// The steps of a part up to one, made again larger.
    Expected<std::vector<StepBody>> remade(const Part& part, const Step& step, double growth, uint64_t copy) {
        Part before = part;
        auto here =
            std::find_if(before.steps.begin(), before.steps.end(), [&](const Step& s) { return s.id == step.id; });
        before.steps.erase(here, before.steps.end());
        // What the part has so far is found again below, not made anew: it must be sure by then.
        for (Made& made : *pending_) {
            if (!made.settle(true))
                return problem(ProblemCode::Geometry, "A step before this one turned out wrong.", "It is made again.");
            keep_(made.key, made.result);
        }
        pending_->clear();
        making_.pop_back(); // it is this part itself
        auto grown = this->part(before, growth, copy);
        making_.push_back(part.id);
        if (!grown) return pass_on(grown);
        for (const StepOutcome& outcome : grown->outcomes)
            if (!outcome.ok && outcome.problem) return pass_on(*outcome.problem);
        return grown->bodies;
    }

    /// From the design frame of a part to that of another, by where both stand in the assembly.
    std::optional<Transform> from_part_to_part(const std::string& from, const Part& to) {
        PartPtr source = project_.part_named(from);
        if (!source || source->place == to.place) return std::nullopt;
        auto a = assembly_transform(source->place, values_), b = assembly_transform(to.place, values_);
        if (!a || !b) return std::nullopt;
        return Transform(b->inverse() * *a);
    }

    std::optional<Problem> add_tool_key(const Part& host, const StepKind& kind, const StepContext& context, Hasher& key,
                                        uint64_t tool_copy) {
        const StepField* fit = kind.field_of(FieldKind::Fit);
        if (fit && !kind.field_of(FieldKind::Part)) {
            auto gap = context.fit_gap(context.word(fit->name.c_str()), "");
            if (!gap) return gap.error();
            key.add(*gap);
        }
        for (const StepField& field : kind.fields) {
            if (field.kind != FieldKind::Part) continue;
            const std::string& name = context.word(field.name.c_str());
            PartPtr tool = project_.part_named(name);
            if (!tool)
                return Problem{ProblemCode::Missing, "There is no part called \"" + name + "\".",
                               "Click it in the sentence and choose another."};
            if (auto wrong =
                    field.role == FieldRole::GoesIn
                        ? add_going_in(host, *tool, fit ? context.word(fit->name.c_str()) : "", context, key, tool_copy)
                        : add_source(*tool, kind, context, key))
                return wrong;
        }
        return std::nullopt;
    }

    /// A part that goes in is made again larger by the gap.
    std::optional<Problem> add_going_in(const Part& host, const Part& tool, const std::string& fit,
                                        const StepContext& context, Hasher& key, uint64_t tool_copy) {
        double gap = 0;
        if (!fit.empty()) {
            auto resolved = context.fit_gap(fit, tool.name);
            if (!resolved) return resolved.error();
            gap = *resolved;
            key.add(gap);
        }
        auto grown = part(tool, gap - context.growth_mm, tool_copy);
        if (!grown) return grown.error();
        key.add(grown->key);
        if (auto way = from_part_to_part(tool.name, host))
            for (int i = 0; i < 3; ++i)
                for (int j = 0; j < 4; ++j) key.add(way->matrix()(i, j));
        return std::nullopt;
    }

    /// Bodies of another part, taken as they are there after one of its steps.
    std::optional<Problem> add_source(const Part& source, const StepKind& kind, const StepContext& context,
                                      Hasher& key) {
        auto grown = part(source, context.growth_mm, context.copy);
        if (!grown) return grown.error();
        const StepField* after = kind.field_of(FieldKind::StepName);
        auto last = step_of(source, after ? context.word(after->name.c_str()) : "");
        if (!last) return last.error();
        key.add(*last ? grown->key_after[**last] : grown->key);
        return std::nullopt;
    }

    /// Id of a part's step by name, number or place in the sheet; nothing for an empty text.
    Expected<std::optional<StepId>> step_of(const Part& part, const std::string& text) {
        if (text.empty()) return std::optional<StepId>();
        if (const Step* step = step_called(part, text)) return std::optional(step->id);
        return problem(ProblemCode::Missing, part.name + " has no step called \"" + text + "\".", "Name another.");
    }

    Expected<std::vector<StepBody>> bodies_of(const std::string& name, const std::string& after, double growth,
                                              uint64_t copy) {
        PartPtr source = project_.part_named(name);
        if (!source)
            return problem(ProblemCode::Missing, "There is no part called \"" + name + "\".", "Choose another.");
        auto grown = part(*source, growth, copy);
        if (!grown) return pass_on(grown);
        auto last = step_of(*source, after);
        if (!last) return pass_on(last);
        for (const StepOutcome& outcome : grown->outcomes)
            if (!outcome.ok && outcome.problem && grown->bodies.empty()) {
                Problem why = *outcome.problem;
                why.sentence = name + ": " + why.sentence;
                return pass_on(why);
            }
        if (!*last) return grown->bodies;
        auto found = grown->after.find(**last);
        if (found == grown->after.end())
            return problem(ProblemCode::Missing, "That step of " + name + " has not worked.", "Mend it there first.");
        return found->second;
    }

    Expected<std::vector<Body>> part_as_it_is(const std::string& name, const Part& host) {
        auto bodies = bodies_of(name, {}, 0, 0);
        if (!bodies) return pass_on(bodies);
        auto way = from_part_to_part(name, host);
        std::vector<Body> placed;
        for (const StepBody& body : *bodies) {
            placed.push_back(body.body);
            if (!way || way->isApprox(Transform::Identity(), 0)) continue;
            auto there = moved(body.body, *way);
            if (!there) return pass_on(there);
            placed.back() = *there;
        }
        return placed;
    }

    Expected<Body> tool_body(const std::string& name, double growth, uint64_t copy) {
        PartPtr tool = project_.part_named(name);
        if (!tool) return problem(ProblemCode::Missing, "There is no part called \"" + name + "\".", "Choose another.");
        auto grown = part(*tool, growth, copy);
        if (!grown) return pass_on(grown);
        for (const StepOutcome& outcome : grown->outcomes)
            if (!outcome.ok && outcome.problem) {
                Problem why = *outcome.problem;
                if (growth != 0) {
                    auto envelope = envelope_body(name, growth, copy);
                    if (envelope) return envelope;
                    if (envelope.error().code == ProblemCode::Open) why = envelope.error();
                }
                if (why.code == ProblemCode::Open) {
                    why.code = ProblemCode::Geometry; // mending here would not help
                    why.advice = "Put a mend step into " + name + ".";
                }
                why.sentence = name + ": " + why.sentence;
                return pass_on(why);
            }
        if (grown->bodies.empty())
            return problem(ProblemCode::Missing, name + " has no body yet.", "Give it a solid first.");
        if (grown->bodies.size() == 1) return grown->bodies[0].body;
        std::vector<Body> others;
        for (size_t i = 1; i < grown->bodies.size(); ++i) others.push_back(grown->bodies[i].body);
        auto joined = combine(Operation::Join, grown->bodies[0].body, others, task_);
        if (!joined) return pass_on(joined);
        return joined->body;
    }

    /// What cannot be remade larger by its numbers is offset by the kernel, or grown by its triangles.
    Expected<Body> envelope_body(const std::string& name, double growth, uint64_t copy) {
        auto nominal = tool_body(name, 0, 0);
        if (!nominal) return nominal;
        StepContext context;
        context.step_id = StepId(project_.part_named(name)->id.value); // its steps are not told apart
        context.task = task_;
        if (auto exact = exact_envelope(*nominal, growth, context)) return renamed_copy(*exact, context.step_id, copy);
        auto grown = grow_mesh(nominal->mesh(), growth, {}, task_);
        if (!grown) return pass_on(grown);
        grown->mesh.tags.assign(grown->mesh.triangles.size(), intern_tag({StepId(project_.part_named(name)->id.value),
                                                                          FaceRole::Derived, 0, copy, 0}));
        return Body::from_mesh(std::move(grown->mesh));
    }

    const Project& project_;
    const ParameterValues& values_;
    const Task& task_;
    Find find_;
    Keep keep_;
    Import import_;
    Flat flat_;
    std::vector<PartId> making_;
    Pending* pending_ = nullptr; ///< of the part whose steps are running
    std::set<StepId>& check_at_once_;
};

PartResult to_result(const Part& part, Run::Grown grown) {
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

Evaluator::Evaluator() : cache_(std::make_unique<Cache>()) {}
Evaluator::~Evaluator() = default;

Evaluator::Counts Evaluator::last_counts() const {
    std::lock_guard lock(cache_->mutex);
    return cache_->counts;
}

/// What a file of the project holds, read once.
template <class What, class Cache>
static Expected<What> cached_file(const Project& project, const std::string& file, Cache& cache,
                                  std::unordered_map<uint64_t, Expected<What>>& known,
                                  Expected<What> (*read)(const std::string& name, const std::string& bytes)) {
    auto found = project.imports.find(file);
    if (found == project.imports.end() || !found->second)
        return problem(ProblemCode::File, "The file \"" + file + "\" is not in the project.", "Bring it in again.");
    uint64_t key = Hasher().add(std::string_view(*found->second)).value();
    {
        std::lock_guard lock(cache.mutex);
        if (auto there = known.find(key); there != known.end()) return there->second;
    }
    auto what = read(file, *found->second);
    std::lock_guard lock(cache.mutex);
    known.emplace(key, what);
    return what;
}

Expected<Evaluation> Evaluator::evaluate(const ProjectPtr& project, const Task& task) {
    {
        std::lock_guard lock(cache_->mutex);
        ++cache_->generation;
        cache_->counts = {};
    }
    Evaluation evaluation;
    evaluation.project = project;
    auto values = project_values(*project);
    if (values)
        evaluation.values = *values;
    else
        evaluation.parameter_problem = values.error();
    auto find = [this](uint64_t key) -> std::optional<Expected<StepResult>> {
        std::lock_guard lock(cache_->mutex);
        auto found = cache_->steps.find(key);
        if (found == cache_->steps.end()) return std::nullopt;
        found->second.generation = cache_->generation;
        ++cache_->counts.reused;
        return found->second.result;
    };
    auto keep = [this](uint64_t key, const Expected<StepResult>& result) {
        std::lock_guard lock(cache_->mutex);
        ++cache_->counts.made;
        cache_->steps[key] = {result, cache_->generation};
    };
    auto import = [this, &project](const std::string& file) {
        return cached_file<TriMesh>(*project, file, *cache_, cache_->imports, read_triangles);
    };
    auto flat = [this, &project](const std::string& file) {
        return cached_file<FlatPaths>(*project, file, *cache_, cache_->flats, read_flat);
    };
    Run run(*project, evaluation.values, task, find, keep, import, flat, cache_->check_at_once);
    std::vector<Run::Grown> all;
    for (size_t i = 0; i < project->parts.size(); ++i) {
        const Part& part = *project->parts[i];
        task.tell("Making " + part.name, double(i) / double(project->parts.size()));
        auto grown = run.part(part, 0, 0);
        if (!grown) return pass_on(grown);
        all.push_back(std::move(*grown));
    }
    // Triangles of different bodies have nothing to do with each other.
    std::vector<const Body*> bodies;
    for (const Run::Grown& grown : all)
        for (const StepBody& body : grown.bodies) bodies.push_back(&body.body);
    tbb::parallel_for(size_t(0), bodies.size(), [&](size_t i) { bodies[i]->shared_tessellation(); });
    for (size_t i = 0; i < all.size(); ++i) {
        evaluation.parts.push_back(to_result(*project->parts[i], std::move(all[i])));
        if (auto place = assembly_transform(project->parts[i]->place, evaluation.values))
            evaluation.parts.back().place = *place;
        else
            evaluation.parts.back().place_problem = place.error();
    }
    std::lock_guard lock(cache_->mutex);
    std::erase_if(cache_->steps,
                  [&](const auto& entry) { return entry.second.generation + generations_kept < cache_->generation; });
    return evaluation;
}

} // namespace lp
