#include "formats/svg_entities.h"
#include "base/text.h"
#include <map>

namespace lp {
namespace {

class Entities {
  public:
    explicit Entities(size_t most) : most_(most) {}

    /// Reads the declarations between the brackets of a document type.
    std::optional<Problem> declare(std::string_view text) {
        for (size_t at = text.find("<!ENTITY"); at != std::string_view::npos; at = text.find("<!ENTITY", at + 1)) {
            size_t i = at + 8;
            const std::string_view name = word(text, i);
            if (name.empty() || name == "%") continue; // of the document type itself
            const size_t value = text.find_first_not_of(" \t\r\n", i);
            if (value == std::string_view::npos) break;
            if (text[value] != '"' && text[value] != '\'')
                return Problem{ProblemCode::File,
                               "The file wants to bring in " + quoted_start(std::string(name)) + " from elsewhere.",
                               "Save it as a plain SVG."};
            const size_t end = text.find(text[value], value + 1);
            if (end == std::string_view::npos) break;
            known_[std::string(name)] = std::string(text.substr(value + 1, end - value - 1));
            at = end;
        }
        return std::nullopt;
    }
    bool empty() const { return known_.empty(); }

    /// False when it comes to too much.
    bool expand(std::string_view from, std::string& into, int depth = 0) {
        constexpr int deepest = 16;
        if (depth > deepest) return false;
        while (!from.empty()) {
            const size_t amp = std::min(from.find('&'), from.size());
            into.append(from.substr(0, amp));
            from.remove_prefix(amp);
            if (into.size() > most_) return false;
            if (from.empty()) break;
            const size_t end = from.substr(0, 128).find(';');
            const auto entity =
                end == std::string_view::npos ? known_.end() : known_.find(std::string(from.substr(1, end - 1)));
            if (entity == known_.end()) { // of XML itself, or a stray sign
                into += '&';
                from.remove_prefix(1);
                continue;
            }
            used.insert(entity->first);
            if (!expand(entity->second, into, depth + 1)) return false;
            from.remove_prefix(end + 1);
        }
        return into.size() <= most_;
    }
    std::set<std::string> used;

  private:
    static std::string_view word(std::string_view text, size_t& i) {
        const size_t start = text.find_first_not_of(" \t\r\n", i);
        if (start == std::string_view::npos) return {};
        i = std::min(text.find_first_of(" \t\r\n>", start), text.size());
        return text.substr(start, i - start);
    }
    std::map<std::string, std::string> known_;
    size_t most_;
};

} // namespace

Expected<WithEntities> with_entities(const std::string& xml, size_t most) {
    WithEntities result;
    const size_t type = xml.find("<!DOCTYPE");
    const size_t open = type == std::string::npos ? type : xml.find_first_of("[>", type);
    if (open == std::string::npos || xml[open] == '>') return result;
    const size_t close = xml.find("]", open);
    const size_t end = close == std::string::npos ? close : xml.find('>', close);
    if (end == std::string::npos) return result; // the parser says what is wrong with it
    const std::string_view all(xml);
    Entities entities(most);
    if (auto wrong = entities.declare(all.substr(open, close - open))) return pass_on(*wrong);
    if (entities.empty()) return result;
    result.text = xml.substr(0, type);
    if (!entities.expand(all.substr(end + 1), result.text))
        return problem(ProblemCode::File, "The file's entities name themselves, or come to too much.",
                       "This is no honest drawing; save it as a plain SVG.");
    result.used = std::move(entities.used);
    return result;
}

} // namespace lp
