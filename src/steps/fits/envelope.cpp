#include "steps/fits/envelope.h"
#include "mesh/envelope_deviation.h"
#include "mesh/grow.h"
#include "shape/held_checks.h"
#include "steps/kernel_step.h"
#include <list>
#include <mutex>

namespace lp {
namespace {

constexpr double budget_s = 4;    // it loses features of some bodies and never comes back on others (architecture.md)
constexpr double fine_mm = 0.005; // what triangles add to the deviation that is measured

std::optional<Body> try_offset(const Body& body, double gap, const StepContext& context) {
    ChecksAtOnce at_once; // a result that is not sound is no envelope, and not an error either
    double volume = body.mass().volume_mm3, skin = body.mass().area_mm2 * gap;
    KernelCall call{"grow", {}, {}, {gap}};
    auto grown = run_kernel_step(body, std::move(call), context, "A halo", volume, volume + 3 * skin + 100 * gap * gap,
                                 budget_s);
    if (!grown) return std::nullopt;
    auto fine = tessellate(body, fine_mm), around = tessellate(*grown, fine_mm);
    if (!fine || !around) return std::nullopt;
    double off = envelope_deviation(fine->mesh, around->mesh, gap, context.task);
    return off <= GrowOptions().deviation_mm ? std::optional(*grown) : std::nullopt;
}

struct Tried {
    std::weak_ptr<const ExactShape> body;
    double gap;
    StepId step;
    uint64_t copy;            ///< they are in the names of its faces
    std::optional<Body> made; ///< nothing also where the kernel died over it: it would again
};

} // namespace

std::optional<Body> exact_envelope(const Body& body, double gap, const StepContext& context) {
    if (!body.is_exact() || body.pieces() != 1 || gap <= 0) return std::nullopt;
    static std::mutex mutex;
    static std::list<Tried> tried;
    {
        std::lock_guard lock(mutex);
        tried.remove_if([](const Tried& t) { return t.body.expired(); });
        for (const Tried& t : tried)
            if (t.body.lock() == body.exact() && t.gap == gap && t.step == context.step_id && t.copy == context.copy)
                return t.made;
    }
    auto made = try_offset(body, gap, context);
    if (context.cancelled()) return std::nullopt;
    std::lock_guard lock(mutex);
    constexpr size_t remembered = 64;
    if (tried.size() >= remembered) tried.pop_front();
    tried.push_back({body.exact(), gap, context.step_id, context.copy, made});
    return made;
}

} // namespace lp
