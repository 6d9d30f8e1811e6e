// Where the print of a part has to stop so that bought things can be laid in.
#pragma once
#include "layers/pause.h"
#include "project/evaluate.h"

namespace lp {

struct PartPause {
    std::string thing; ///< "M5 nut", a stand-in's name; of a stop by hand: why, which may be empty
    Pause pause;
    size_t raft_layers = 0;
    bool by_hand = false; ///< one of Part::stops
    /// The first layer printed after it, from 1; with those of the raft.
    size_t layer() const { return pause.after + 1; }
    size_t layer_with_raft() const { return layer() + raft_layers; }
    /// "M5 nut goes in after layer 36 at 7.2 mm", and what is wrong with it.
    std::string words() const;
};

/// By height. The part's stops by hand, and: stand-ins that stand in the part in the assembly, and closed pockets that
/// a *Hole by what goes in* made. Empty for parts that are not printed, and on request.
std::vector<PartPause> pauses_of(const Evaluation& evaluation, PartId part, const Task& task = {});

} // namespace lp
