#include "shape/exact_boolean.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/drill.h"
#include "shape/exact_shape.h"
#include "shape/held_checks.h"
#include "shape/kernel_guard.h"
#include <BRepCheck_Analyzer.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS_Iterator.hxx>
#include <future>
#include <numeric>

namespace lp {

using FaceMap = TopTools_IndexedMapOfShape;

namespace {

/// Tags and birth frames of a combined shape, or of a part of one: of every face it came from.
std::shared_ptr<ExactShape> named(const KernelAnswer& answer, const TopoDS_Shape& part,
                                  const std::vector<const ExactShape*>& operands) {
    auto result = std::make_shared<ExactShape>();
    result->shape = part;
    FaceMap faces, its;
    TopExp::MapShapes(answer.shape, TopAbs_FACE, faces);
    TopExp::MapShapes(part, TopAbs_FACE, its);
    std::vector<FaceMap> sources(operands.size());
    for (size_t i = 0; i < operands.size(); ++i) {
        TopExp::MapShapes(operands[i]->shape, TopAbs_FACE, sources[i]);
        result->births.insert(operands[i]->births.begin(), operands[i]->births.end());
    }
    for (int i = 1; i <= faces.Extent() && size_t(i) <= answer.origins.size(); ++i) {
        if (!its.Contains(faces(i))) continue;
        TagSet tags;
        for (const ElementOrigin& o : answer.origins[size_t(i - 1)])
            if (const TagSet* own = operands[size_t(o.operand)]->tags.Seek(sources[size_t(o.operand)](o.index + 1)))
                add_tags(tags, *own);
        if (!tags.empty()) result->tags.Bind(faces(i), tags);
    }
    return result;
}

/// A kernel call on some bodies, the results (one, or as many as the answer has parts) named.
Expected<std::vector<std::shared_ptr<ExactShape>>>
compute(const char* what, const Body& first, const std::vector<Body>& others, bool in_parts, const Task& task) {
    KernelCall call;
    call.what = what;
    std::vector<const ExactShape*> operands{first.exact().get()};
    for (const Body& body : others) operands.push_back(body.exact().get());
    for (const ExactShape* operand : operands) call.shapes.push_back(operand->shape);
    auto answer = run_guarded(call, task);
    if (!answer) return pass_on(answer);
    if (!in_parts) return std::vector{named(*answer, answer->shape, operands)};
    std::vector<std::shared_ptr<ExactShape>> parts;
    for (TopoDS_Iterator it(answer->shape); it.More(); it.Next()) parts.push_back(named(*answer, it.Value(), operands));
    return parts;
}

tl::unexpected<Problem> not_sound(const char* what) {
    return problem(ProblemCode::Geometry, std::string("The result of the ") + what + " is not sound.",
                   "Move one of the bodies by 0.01 mm, or change a size a little.");
}

/// What the kernel thinks of a result.
BodyCheck validity(const std::shared_ptr<ExactShape>& shape, const char* what) {
    return [made = std::shared_ptr<const ExactShape>(shape), what]() -> std::optional<Problem> {
        auto opinion = guard_kernel("checking a body",
                                    [&]() -> Expected<bool> { return BRepCheck_Analyzer(made->shape).IsValid(); });
        if (!opinion) return opinion.error();
        if (!*opinion) return not_sound(what).value();
        return std::nullopt;
    };
}

bool has_solid(const ExactShape& shape) {
    return TopExp_Explorer(shape.shape, TopAbs_SOLID).More();
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
                   "Move one of the bodies by 0.01 mm, or change a size a little."};
}

Expected<Body> combine_exact(Operation operation, const Body& first, const std::vector<Body>& others,
                             const Task& task) {
    if (operation == Operation::Cut)
        if (auto drilled = drill_directly(first, others, task)) return *drilled;
    const char* what = operation_name(operation);
    return guard_kernel("combining bodies", [&]() -> Expected<Body> {
        auto made = compute(what, first, others, false, task);
        if (!made) return pass_on(made);
        if (!has_solid(*made->front()))
            return problem(ProblemCode::NothingLeft, "Nothing is left after this.",
                           operation == Operation::Common ? "The bodies have no material in common: move one of them."
                                                          : "The cut takes the whole body away: make it smaller.");
        auto body = Body::from_exact(made->front());
        if (!body) return body;
        if (auto wrong = check_or_hold({validity(made->front(), what)})) return pass_on(*wrong);
        std::vector<double> volumes;
        for (const Body& other : others) volumes.push_back(other.mass().volume_mm3);
        if (auto wrong = check_boolean_volume(operation, body->mass().volume_mm3, first.mass().volume_mm3, volumes))
            return pass_on(*wrong);
        return body;
    });
}

Expected<PartedBody> part_exact(const Body& body, const Body& tool, const Task& task) {
    return guard_kernel("parting a body", [&]() -> Expected<PartedBody> {
        auto made = compute("part", body, {tool}, true, task);
        if (!made) return pass_on(made);
        if (made->size() != 2 || !has_solid(*(*made)[0]) || !has_solid(*(*made)[1]))
            return problem(ProblemCode::NothingLeft, "Nothing is left after this.", "Move the parting.");
        auto other = std::async(std::launch::async, [&] { return Body::from_exact((*made)[0]); });
        auto outside = Body::from_exact((*made)[1]), inside = other.get();
        if (!inside) return pass_on(inside);
        if (!outside) return pass_on(outside);
        if (auto wrong = check_or_hold({validity((*made)[0], "parting"), validity((*made)[1], "parting")}))
            return pass_on(*wrong);
        double whole = body.mass().volume_mm3, sum = inside->mass().volume_mm3 + outside->mass().volume_mm3;
        if (std::fabs(sum - whole) > tolerance::boolean_volume * whole + 1e-6) return not_sound("parting");
        return PartedBody{*inside, *outside};
    });
}

} // namespace lp
