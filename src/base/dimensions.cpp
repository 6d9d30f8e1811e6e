#include "base/dimensions.h"
#include <cctype>
#include <cmath>
#include <cstdlib>
#include <vector>

namespace lp {
namespace {

constexpr int deepest = 100;

/// Reads from the left; a failure sticks.
class Reader {
  public:
    using Known = std::function<std::optional<Dimensions>(const std::string& word, bool unit)>;
    Reader(const std::string& text, const Known& known) : text_(text), known_(known) {}

    std::optional<Dimensions> whole() {
        Dimensions all = choice();
        skip();
        return failed_ || at_ != text_.size() ? std::nullopt : std::optional(all);
    }

  private:
    void skip() {
        while (at_ < text_.size() && std::isspace(static_cast<unsigned char>(text_[at_]))) ++at_;
    }
    bool take(const std::string& what) {
        skip();
        if (text_.compare(at_, what.size(), what) != 0) return false;
        at_ += what.size();
        return true;
    }
    Dimensions fail() {
        failed_ = true;
        return {};
    }
    Dimensions same(const Dimensions& a, const Dimensions& b) {
        if (a.bare) return b;
        if (b.bare) return a;
        if (std::fabs(a.length - b.length) > 1e-9 || std::fabs(a.angle - b.angle) > 1e-9) return fail();
        return a;
    }

    Dimensions choice() {
        Dimensions first = comparison();
        if (!take("?")) return first;
        Dimensions a = choice();
        if (!take(":")) return fail();
        return same(a, choice());
    }
    Dimensions comparison() {
        Dimensions first = sum();
        for (const char* sign : {"<=", ">=", "==", "!=", "&&", "||", "<", ">"})
            if (take(sign)) {
                same(first, comparison());
                return {0, 0, true};
            }
        return first;
    }
    Dimensions sum() {
        Dimensions all = product();
        while (!failed_ && (take("+") || take("-"))) all = same(all, product());
        return all;
    }
    Dimensions product() {
        Dimensions all = signed_power();
        while (!failed_) {
            const bool times = take("*");
            if (!times && !take("/")) break;
            Dimensions next = signed_power();
            const int sign = times ? 1 : -1;
            all = {all.length + sign * next.length, all.angle + sign * next.angle, all.bare && next.bare};
        }
        return all;
    }
    Dimensions signed_power() {
        if (++depth_ > deepest) return fail();
        Dimensions all = take("-") || take("+") ? signed_power() : power();
        --depth_;
        return all;
    }
    Dimensions power() {
        Dimensions base = atom();
        if (!take("^")) return base;
        skip();
        char* end = nullptr;
        const double exponent = std::strtod(text_.c_str() + at_, &end);
        if (end == text_.c_str() + at_) { // by something that is worked out: only of plain numbers
            signed_power();
            return base.length == 0 && base.angle == 0 ? base : fail();
        }
        at_ = size_t(end - text_.c_str());
        return {base.length * exponent, base.angle * exponent, base.bare};
    }
    std::string word() {
        size_t start = at_;
        while (at_ < text_.size() && (std::isalnum(static_cast<unsigned char>(text_[at_])) || text_[at_] == '_')) ++at_;
        return text_.substr(start, at_ - start);
    }
    bool at_word() {
        skip();
        return at_ < text_.size() && (std::isalpha(static_cast<unsigned char>(text_[at_])) || text_[at_] == '_');
    }
    Dimensions with_unit(Dimensions number) {
        if (!at_word()) return number;
        auto unit = known_(word(), true);
        return unit ? *unit : fail();
    }
    Dimensions atom() {
        if (++depth_ > deepest) return fail();
        Dimensions found = atom_inside();
        --depth_;
        return found;
    }
    Dimensions atom_inside() {
        if (take("(")) {
            Dimensions inside = choice();
            return take(")") ? with_unit(inside) : fail();
        }
        skip();
        if (at_ < text_.size() && (std::isdigit(static_cast<unsigned char>(text_[at_])) || text_[at_] == '.')) {
            char* end = nullptr;
            std::strtod(text_.c_str() + at_, &end);
            if (end == text_.c_str() + at_) return fail();
            at_ = size_t(end - text_.c_str());
            return with_unit({0, 0, true});
        }
        if (!at_word()) return fail();
        const std::string name = word();
        if (take("(")) return call(name);
        auto known = known_(name, false);
        return known ? *known : fail();
    }
    Dimensions call(const std::string& name) {
        std::vector<Dimensions> given{choice()};
        while (!failed_ && take(",")) given.push_back(choice());
        if (failed_ || !take(")")) return fail();
        if (name == "asin" || name == "acos" || name == "atan" || name == "atan2") return {0, 1, false};
        if (name == "sqrt") return {given[0].length / 2, given[0].angle / 2, given[0].bare};
        if (name == "sin" || name == "cos" || name == "tan" || name == "exp" || name == "ln" || name == "log")
            return {0, 0, true};
        // min, max, abs, round ...: as what is given; of if, what it chooses between.
        Dimensions all = given[name == "if" && given.size() == 3 ? 1 : 0];
        for (size_t i = name == "if" ? 2 : 1; i < given.size() && !failed_; ++i) all = same(all, given[i]);
        return all;
    }

    const std::string& text_;
    const Known& known_;
    size_t at_ = 0;
    int depth_ = 0;
    bool failed_ = false;
};

} // namespace

std::optional<Dimensions> dimensions_of(const std::string& expression, const Reader::Known& of_word) {
    return Reader(expression, of_word).whole();
}

} // namespace lp
