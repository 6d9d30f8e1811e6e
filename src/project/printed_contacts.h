// The gaps of contacts as a practice print leaves them: the third figure of a contact, after what was wanted and what
// was drawn.
#pragma once
#include "layers/practice_print.h"
#include "project/analysis.h"
#include <map>
#include <set>

namespace lp {

/// The bodies of a part as a practice print leaves them, where they stand in the assembly; of a stand-in as bought.
struct PrintedPart {
    std::vector<TriMesh> bodies, above_first; ///< above_first: without what lies within the first layer
    std::vector<FusedBodies> fused;           ///< which of them are one piece, by their numbers
};
using PrintedParts = std::map<PartId, PrintedPart>;
/// Each of them printed for itself. Fails where one cannot be printed, and on request.
Expected<PrintedParts> printed_parts(const Evaluation& evaluation, const Analysis& analysis,
                                     const std::set<PartId>& parts, const Task& task = {});

struct PrintedContact {
    ContactRef ref;
    /// Smallest distance between the two as printed, where they stand in the assembly, mm; 0 where they touch or lie in
    /// each other.
    double gap_mm = 0;
    /// The same without the first layer of either, which stands out by the card's flare.
    double above_first_mm = 0;
    std::vector<std::pair<size_t, size_t>> fused; ///< printed together: the layers, from 1, in which they are one piece
    bool first_layer_only() const { return fused.empty() ? gap_mm < above_first_mm : fused.back().second <= 1; }
};

/// Of every contact with at least one printed side; a stand-in is as it was bought. Each part that takes part is laid
/// once. Fails where a part cannot be printed, and on request.
Expected<std::vector<PrintedContact>> printed_contacts(const Evaluation& evaluation, const Analysis& analysis,
                                                       const Task& task = {});

/// How the gap left stands to what was wanted when both faces grow as the card says.
FitState printed_state(const PrintedContact& printed, const ContactResult& contact, const PrinterCard& card);

/// "as printed 0.10 mm", "as printed it touches", "as printed it fuses in layers 1 to 12", "as printed it fuses in the
/// first layer only".
std::string printed_words(const PrintedContact& contact);

} // namespace lp
