#include "app/taken_apart.h"
#include <cmath>

namespace lp {

TakenApart::TakenApart(Document& document, Workspace& workspace, Results& results, Worker& worker)
    : document_(document), workspace_(workspace), results_(results), worker_(worker) {
    connect(&results, &Results::analysed, this, &TakenApart::follow);
    connect(&document, &Document::replaced, this, &TakenApart::let_be);
    connect(&workspace, &Workspace::stretch_changed, this, [this] {
        if (workspace_.stretch() != Stretch::Fit) show(1e9);
    });
}

void TakenApart::work_out() {
    wanted_ = true;
    follow();
}

void TakenApart::let_be() {
    show(1e9);
    wanted_ = false;
    moves_.clear();
    of_ = known_of_ = nullptr;
    emit ordered();
}

bool TakenApart::is_current() const {
    return known_of_ && known_of_ == results_.shared_analysis() && results_.analysis_is_current();
}

void TakenApart::follow() {
    const auto analysis = results_.shared_analysis();
    if (!wanted_ || !analysis || !results_.analysis_is_current() || analysis == of_) return;
    of_ = analysis;
    worker_.start(Lane::Asked, "assembly", [this, analysis, evaluation = *results_.evaluation()](const Task& task) {
        auto moves = assembly_order(evaluation, *analysis, task);
        worker_.post([this, analysis, moves = std::move(moves)]() mutable {
            if (analysis != of_ || !wanted_) return;
            if (!moves) return let_be(); // it was stopped
            moves_ = std::move(*moves);
            known_of_ = analysis;
            emit ordered();
            tell_all();
        });
    });
}

std::optional<Transform> TakenApart::shown_at(PartId part) const {
    if (workspace_.stretch() != Stretch::Fit || together_ >= double(moves_.size())) return std::nullopt;
    for (size_t i = 0; i < moves_.size(); ++i) {
        if (moves_[i].part != part) continue;
        const double away = std::clamp(double(i) + 1 - together_, 0.0, 1.0);
        if (away == 0 || moves_[i].moved_by().isZero()) return std::nullopt;
        Transform by = Transform::Identity();
        by.translation() = moves_[i].moved_by(away);
        return by;
    }
    return std::nullopt;
}

void TakenApart::tell_all() {
    for (const AssemblyMove& move : moves_) emit shown(move.part, shown_at(move.part));
}

void TakenApart::show(double together) {
    const double most = double(moves_.size()), next = std::clamp(together, 0.0, std::max(most, 1.0));
    const bool was = is_apart();
    together_ = together >= most ? 1e9 : next;
    if (!was && !is_apart()) return;
    tell_all();
    if (was != is_apart()) emit began_or_ended();
}

void TakenApart::reorder(size_t move, int by) {
    const long to = long(move) + by;
    if (move >= moves_.size() || to < 0 || to >= long(moves_.size())) return;
    std::vector<PartId> parts;
    for (const AssemblyMove& one : moves_) parts.push_back(one.part);
    std::swap(parts[move], parts[size_t(to)]);
    document_.edit(SetAssembly{parts});
}

} // namespace lp
