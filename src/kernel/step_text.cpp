#include "kernel/step_text.h"
#include <unordered_map>

namespace lp {
namespace {

bool is_digit(char c) {
    return c >= '0' && c <= '9';
}

class Scanner {
  public:
    Scanner(std::string_view text, StepText& found) : text_(text), found_(found) { found.text = text; }

    bool scan() {
        // Each statement ends with ";": sections begin and end with one, and hold nothing but statements.
        while (good_ && at_ < text_.size()) scan_statement();
        return good_ && section_ == Section::Behind && link();
    }

  private:
    enum class Section { Before, Header, Between, Data, Behind };

    void scan_statement() {
        skip_blanks();
        if (at_ >= text_.size()) return;
        StepInstance one;
        one.from = at_;
        one.refs = found_.refs.size();
        const bool instance = section_ == Section::Data && text_[at_] == '#';
        good_ = (!instance || scan_head(one)) && scan_rest();
        if (!good_) return;
        one.to = at_++;
        one.refs_end = found_.refs.size();
        if (instance)
            found_.instances.push_back(one);
        else
            good_ = take_other(text_.substr(one.from, one.to - one.from));
    }

    /// Up to the ";".
    bool scan_rest() {
        for (; at_ < text_.size() && text_[at_] != ';'; ++at_) {
            const char c = text_[at_];
            if (c == '\'' || c == '"') {
                at_ = text_.find(c, at_ + 1);
            } else if (c == '/' && at_ + 1 < text_.size() && text_[at_ + 1] == '*') {
                at_ = text_.find("*/", at_ + 2);
                if (at_ != std::string_view::npos) ++at_;
            } else if (c == '#' && section_ == Section::Data) {
                StepRef ref{0, at_, at_ + 1, 0};
                if (!scan_id(ref.id, ref.to)) return false;
                found_.refs.push_back(ref);
                at_ = ref.to - 1;
            }
            if (at_ == std::string_view::npos) return false;
        }
        return at_ < text_.size();
    }

    /// What is no instance: false where it stands in the wrong place.
    bool take_other(std::string_view said) {
        switch (section_) {
        case Section::Before:
            if (said == "HEADER") section_ = Section::Header;
            return true;
        case Section::Header:
            if (said == "ENDSEC")
                section_ = Section::Between;
            else
                found_.header.push_back(said);
            return true;
        case Section::Between:
            section_ = Section::Data;
            return said == "DATA";
        case Section::Data:
            section_ = Section::Behind;
            return said == "ENDSEC";
        case Section::Behind:
            break;
        }
        return said.substr(0, 7) == "END-ISO";
    }

    /// "#12 = KEYWORD", what is before the brackets.
    bool scan_head(StepInstance& one) {
        one.head = at_ + 1;
        if (!scan_id(one.id, one.head)) return false;
        at_ = one.head;
        skip_blanks();
        if (at_ >= text_.size() || text_[at_] != '=') return false;
        one.body = ++at_;
        skip_blanks();
        const size_t word = at_;
        while (at_ < text_.size() && (is_digit(text_[at_]) || text_[at_] == '_' || (text_[at_] & ~32) >= 'A')) ++at_;
        one.keyword = text_.substr(word, at_ - word);
        return true;
    }

    /// Nine digits at most: the library counts in 32 bits.
    bool scan_id(uint64_t& id, size_t& end) const {
        const size_t first = end;
        for (; end < text_.size() && end < first + 9 && is_digit(text_[end]); ++end)
            id = id * 10 + uint64_t(text_[end] - '0');
        return end > first && id > 0 && (end >= text_.size() || !is_digit(text_[end]));
    }

    void skip_blanks() {
        while (at_ < text_.size()) {
            if (uint8_t(text_[at_]) <= ' ') {
                ++at_;
            } else if (text_.substr(at_, 2) == "/*") {
                const size_t end = text_.find("*/", at_ + 2);
                at_ = end == std::string_view::npos ? text_.size() : end + 2;
            } else {
                return;
            }
        }
    }

    /// What the references are to. False where a number is given twice or to nothing.
    bool link() {
        std::unordered_map<uint64_t, uint32_t> of_id;
        of_id.reserve(found_.instances.size());
        for (size_t i = 0; i < found_.instances.size(); ++i)
            if (!of_id.emplace(found_.instances[i].id, uint32_t(i)).second) return false;
        for (StepRef& ref : found_.refs) {
            const auto found = of_id.find(ref.id);
            if (found == of_id.end()) return false;
            ref.at = found->second;
        }
        return true;
    }

    std::string_view text_;
    StepText& found_;
    size_t at_ = 0;
    Section section_ = Section::Before;
    bool good_ = true;
};

} // namespace

bool scan_step_text(std::string_view text, StepText& found) {
    return Scanner(text, found).scan();
}

} // namespace lp
