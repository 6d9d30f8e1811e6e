// The gaps of contacts as a practice print leaves them: the third figure of a contact, after what was wanted and what
// was drawn.
#pragma once
#include "project/analysis.h"

namespace lp {

struct PrintedContact {
    ContactRef ref;
    /// Smallest distance between the two as printed, where they stand in the assembly, mm; 0 where they touch or lie in
    /// each other.
    double gap_mm = 0;
    bool fused = false; ///< printed together, and one piece then
};

/// Of every contact with at least one printed side; a stand-in is as it was bought. Each part that takes part is laid
/// once. Fails where a part cannot be printed, and on request.
Expected<std::vector<PrintedContact>> printed_contacts(const Evaluation& evaluation, const Analysis& analysis,
                                                       const Task& task = {});

/// "as printed 0.10 mm", "as printed it touches", "as printed it is one piece".
std::string printed_words(const PrintedContact& contact);

} // namespace lp
