#include "project/history.h"
#include <algorithm>

namespace lp {

History::History(ProjectPtr first) : entries_{{std::move(first), ""}} {}

void History::push(const Edited& edited) {
    if (edited.sentence.empty()) return; // nothing was done: a name given again
    entries_.resize(at_ + 1);
    entries_.push_back({edited.project, edited.sentence});
    if (entries_.size() > longest) entries_.erase(entries_.begin(), entries_.begin() + long(entries_.size() - longest));
    at_ = entries_.size() - 1;
}

History History::from_entries(std::vector<HistoryEntry> entries, size_t at) {
    History history;
    if (entries.empty()) return history;
    history.entries_ = std::move(entries);
    history.at_ = std::min(at, history.entries_.size() - 1);
    return history;
}

} // namespace lp
