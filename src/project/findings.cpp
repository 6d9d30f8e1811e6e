#include "project/findings.h"
#include "base/quantity.h"
#include "project/closed_at_bed.h"
#include "project/contact_words.h"
#include "project/flared_rims.h"
#include "project/standing.h"
#include <algorithm>

namespace lp {
namespace {

class Collector {
  public:
    Collector(const Evaluation& evaluation, const Analysis* analysis) : evaluation_(evaluation), analysis_(analysis) {}

    std::vector<PartFinding> of(const PartResult& made) {
        found_.clear();
        part_ = made.part;
        for (size_t i = 0; i < made.steps.size(); ++i)
            if (!made.steps[i].ok)
                add({FindingKind::FailedStep, 1, Vec3::Zero(), made.steps[i].says,
                     "Step " + std::to_string(i + 1) + " failed", made.steps[i].step});
        if (made.place_problem)
            add({FindingKind::LostPlace, 1, Vec3::Zero(),
                 "It stands where it was drawn, because its place cannot be worked out: " +
                     made.place_problem->text()});
        for (const Problem& wrong : standing_of(evaluation_).problems_of(made.part))
            add({FindingKind::LostPlace, 1, Vec3::Zero(),
                 "It stands as drawn, not as its movement left it: " + wrong.text()});
        if (const PartAnalysis* known = analysis_ ? analysis_->part(made.part) : nullptr) {
            add_analysis(*known);
            add_beds(*known);
        }
        return std::move(found_);
    }

  private:
    void add(Finding finding) {
        FindingRef ref{part_, finding.kind, finding.step};
        ref.nth = size_t(std::count_if(found_.begin(), found_.end(), [&](const PartFinding& f) {
            return f.ref.kind == ref.kind && f.ref.step == ref.step;
        }));
        found_.push_back({ref, std::move(finding)});
    }

    void add_analysis(const PartAnalysis& known) {
        for (const Finding& f : known.inspection.findings) add(f);
        if (known.plan && !known.plan->islands.empty()) {
            const Island& first = known.plan->islands.front();
            add({FindingKind::MidAir, known.plan->islands.size(), Vec3(first.at.x(), first.at.y(), first.z_mm),
                 "first at z " + format_fixed(first.z_mm, 2) + " mm, " + format_number(first.area_mm2, 1) + " mm²"});
        }
        const auto wrong = [](const PartPause& pause) { return !pause.pause.sound; };
        if (auto first = std::find_if(known.pauses.begin(), known.pauses.end(), wrong); first != known.pauses.end()) {
            const Vec3 middle = bounding_box(*known.posed).center();
            add({FindingKind::UnsoundStop, size_t(std::count_if(first, known.pauses.end(), wrong)),
                 Vec3(middle.x(), middle.y(), first->pause.at_mm), first->words()});
        }
        if (!known.plan_problem.empty()) add({FindingKind::NotLaid, 1, Vec3::Zero(), known.plan_problem});
        if (!known.pose_note.empty()) add({FindingKind::LostPose, 1, Vec3::Zero(), known.pose_note});
        if (!known.mark_note.empty()) add({FindingKind::LostMark, 1, Vec3::Zero(), known.mark_note});
        const PartResult* made = evaluation_.part(known.part);
        if (auto flared = flared_finding(evaluation_, *analysis_, known)) add(*flared);
        if (auto closed = closed_at_bed(evaluation_, *analysis_, known)) add(*closed);
        for (const ContactResult& c : analysis_->contacts)
            if (c.fused && c.part_a == known.part && c.part_b == known.part)
                add({FindingKind::Fused,
                     1,
                     known.pose * made->place.inverse() * c.fused->where,
                     c.a + " and " + c.b + ": " + fused_words(*c.fused),
                     {},
                     c.step});
    }

    void add_beds(const PartAnalysis& known) {
        auto tell = [&](FindingKind kind, bool BedTrouble::*which, const char* does, const char* what) {
            size_t count = 0;
            const BedTrouble* first = nullptr;
            for (const BedTrouble& trouble : analysis_->beds)
                if (trouble.part == known.part && trouble.*which && ++count == 1) first = &trouble;
            if (!first) return;
            const PartPtr part = evaluation_.project->part(known.part);
            const std::string who = part && part->quantity > 1 ? "Copy " + std::to_string(first->copy + 1) : "It";
            add({kind, count, bounding_box(*known.posed).center(),
                 who + " " + does + " " + what + " on bed " + std::to_string(first->bed + 1) +
                     (count > 1 ? ", and " + std::to_string(count - 1) + " more." : ".")});
        };
        tell(FindingKind::PastBorder, &BedTrouble::past_border, "reaches past", "the border");
        tell(FindingKind::InAnother, &BedTrouble::in_another, "stands in", "another thing");
        tell(FindingKind::UnderHead, &BedTrouble::under_head, "would be met by the head while", "others are printed");
    }

    const Evaluation& evaluation_;
    const Analysis* analysis_;
    PartId part_;
    std::vector<PartFinding> found_;
};

bool is_open(const PartFinding& f, const Analysis* analysis) {
    const Counted counted = row_of(f.finding.kind).counted;
    if (counted != Counted::WithoutSupports) return counted == Counted::Always;
    const PartAnalysis* known = analysis ? analysis->part(f.ref.part) : nullptr;
    return !known || !known->supports.count();
}

} // namespace

std::vector<PartFinding> all_findings(const Evaluation& evaluation, const Analysis* analysis) {
    std::vector<PartFinding> all;
    Collector collector(evaluation, analysis);
    for (const PartResult& made : evaluation.parts)
        for (PartFinding& f : collector.of(made)) all.push_back(std::move(f));
    return all;
}

std::vector<PartFinding> findings_of_part(const Evaluation& evaluation, const Analysis* analysis, PartId part) {
    const PartResult* made = evaluation.part(part);
    return made ? Collector(evaluation, analysis).of(*made) : std::vector<PartFinding>{};
}

size_t open_findings(const Evaluation& evaluation, const Analysis* analysis, FindingStage stage) {
    size_t open = 0;
    for (const PartFinding& f : all_findings(evaluation, analysis))
        open += row_of(f.finding.kind).stage == stage && is_open(f, analysis);
    if (stage == FindingStage::Fit && analysis)
        for (const ContactResult& c : analysis->contacts) open += c.open();
    return open;
}

bool wants_mending(const Evaluation& evaluation, const Analysis& analysis, PartId part) {
    const PartResult* made = evaluation.part(part);
    const PartAnalysis* known = analysis.part(part);
    return made && known && !made->exact && !known->inspection.soundness.sound();
}

} // namespace lp
