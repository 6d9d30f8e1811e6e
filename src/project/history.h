// Undo and redo: snapshots with the sentence of the edit that led to each.
#pragma once
#include "project/edit.h"

namespace lp {

struct HistoryEntry {
    ProjectPtr project;
    std::string sentence; ///< what was done to get here; empty for the first
};

class History {
  public:
    explicit History(ProjectPtr first = std::make_shared<const Project>());
    const ProjectPtr& now() const { return entries_[at_].project; }
    bool can_undo() const { return at_ > 0; }
    bool can_redo() const { return at_ + 1 < entries_.size(); }
    /// Sentence of the edit that undo would take back, or redo would do again.
    std::string undo_sentence() const { return can_undo() ? entries_[at_].sentence : ""; }
    std::string redo_sentence() const { return can_redo() ? entries_[at_ + 1].sentence : ""; }
    void push(const Edited& edited); ///< drops what could be redone; an edit without a sentence did nothing
    void undo() { at_ -= can_undo(); }
    void redo() { at_ += can_redo(); }

    const std::vector<HistoryEntry>& entries() const { return entries_; }
    size_t position() const { return at_; }
    /// For loading. `at` is kept inside.
    static History from_entries(std::vector<HistoryEntry> entries, size_t at);

    static constexpr size_t longest = 300;

  private:
    std::vector<HistoryEntry> entries_;
    size_t at_ = 0;
};

} // namespace lp
