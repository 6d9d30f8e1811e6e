#include "shape/exact_boolean.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/drill.h"
#include "shape/exact_shape.h"
#include "shape/kernel_guard.h"
#include <BRepCheck_Analyzer.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <future>
#include <numeric>

namespace lp {

using FaceMap = TopTools_IndexedMapOfShape;

namespace {

/// Tags and birth frames of a combined shape: of every face it came from.
std::shared_ptr<ExactShape> named(KernelAnswer answer, const std::vector<const ExactShape*>& operands) {
    auto result = std::make_shared<ExactShape>();
    result->shape = answer.shape;
    FaceMap faces;
    TopExp::MapShapes(result->shape, TopAbs_FACE, faces);
    std::vector<FaceMap> sources(operands.size());
    for (size_t i = 0; i < operands.size(); ++i) {
        TopExp::MapShapes(operands[i]->shape, TopAbs_FACE, sources[i]);
        result->births.insert(operands[i]->births.begin(), operands[i]->births.end());
    }
    for (int i = 1; i <= faces.Extent() && size_t(i) <= answer.origins.size(); ++i) {
        TagSet tags;
        for (const ElementOrigin& o : answer.origins[size_t(i - 1)])
            if (const TagSet* own = operands[size_t(o.operand)]->tags.Seek(sources[size_t(o.operand)](o.index + 1)))
                add_tags(tags, *own);
        if (!tags.empty()) result->tags.Bind(faces(i), tags);
    }
    return result;
}

Expected<std::shared_ptr<ExactShape>> compute(Operation operation, const Body& first, const std::vector<Body>& others,
                                              const Task& task) {
    KernelCall call;
    call.what = operation_name(operation);
    std::vector<const ExactShape*> operands{first.exact().get()};
    for (const Body& body : others) operands.push_back(body.exact().get());
    for (const ExactShape* operand : operands) call.shapes.push_back(operand->shape);
    auto answer = run_guarded(call, task);
    if (!answer) return tl::make_unexpected(answer.error());
    return named(std::move(*answer), operands);
}

} // namespace

const char* operation_name(Operation operation) {
    switch (operation) {
    case Operation::Join:
        return "join";
    case Operation::Cut:
        return "cut";
    case Operation::Common:
        return "common";
    }
    return "join";
}

std::optional<Problem> check_boolean_volume(Operation operation, double result, double first,
                                            const std::vector<double>& others) {
    double sum = std::accumulate(others.begin(), others.end(), 0.0);
    double low = 0, high = first;
    if (operation == Operation::Join) {
        low = first;
        for (double v : others) low = std::max(low, v);
        high = first + sum;
    } else if (operation == Operation::Cut) {
        low = std::max(0.0, first - sum);
    } else {
        for (double v : others) high = std::min(high, v);
    }
    double slack = tolerance::boolean_volume * std::max(first, high) + 1e-6;
    if (result >= low - slack && result <= high + slack) return std::nullopt;
    return Problem{ProblemCode::Geometry,
                   "The result of the " + std::string(operation_name(operation)) + " has a volume of " +
                       format_number(result) + " mm³, and it should lie between " + format_number(low) + " and " +
                       format_number(high) + " mm³.",
                   "Move one of the bodies by 0.01 mm, or change a size a little.",
                   {},
                   {}};
}

Expected<Body> combine_exact(Operation operation, const Body& first, const std::vector<Body>& others,
                             const Task& task) {
    if (operation == Operation::Cut)
        if (auto drilled = drill_directly(first, others, task)) return *drilled;
    return guard_kernel("combining bodies", [&]() -> Expected<Body> {
        auto shape = compute(operation, first, others, task);
        if (!shape) return tl::make_unexpected(shape.error());
        if (!TopExp_Explorer((*shape)->shape, TopAbs_SOLID).More())
            return problem(ProblemCode::Geometry, "Nothing is left after this.",
                           operation == Operation::Common ? "The bodies have no material in common: move one of them."
                                                          : "The cut takes the whole body away: make it smaller.");
        // The kernel's own opinion, while the body is measured.
        auto valid = std::async(std::launch::async, [&made = (*shape)->shape] {
            auto opinion =
                guard_kernel("checking a body", [&]() -> Expected<bool> { return BRepCheck_Analyzer(made).IsValid(); });
            return opinion && *opinion;
        });
        auto body = Body::from_exact(*shape);
        if (!valid.get())
            return problem(ProblemCode::Geometry,
                           "The result of the " + std::string(operation_name(operation)) + " is not sound.",
                           "Move one of the bodies by 0.01 mm, or change a size a little.");
        if (!body) return body;
        std::vector<double> volumes;
        for (const Body& other : others) volumes.push_back(other.mass().volume_mm3);
        if (auto wrong = check_boolean_volume(operation, body->mass().volume_mm3, first.mass().volume_mm3, volumes))
            return tl::make_unexpected(*wrong);
        return body;
    });
}

} // namespace lp
