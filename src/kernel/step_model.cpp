#include "kernel/step_model.h"
#include <Interface_ParamType.hxx>
#include <StepData_FileRecognizer.hxx>
#include <StepData_StepReaderData.hxx>
#include <StepData_StepReaderTool.hxx>
#include <memory>
#include <string>

namespace lp {
namespace {

/// Words that end with a zero and stay where they are, as the library wants them while it makes its entities.
class KeptWords {
  public:
    const char* keep(std::string_view word) {
        if (used_ + word.size() + 1 > room_) {
            room_ = std::max<size_t>(size_t(1) << 16, word.size() + 1);
            pages_.push_back(std::make_unique<char[]>(room_));
            used_ = 0;
        }
        char* kept = pages_.back().get() + used_;
        word.copy(kept, word.size());
        kept[word.size()] = 0;
        used_ += word.size() + 1;
        return kept;
    }

  private:
    std::vector<std::unique_ptr<char[]>> pages_;
    size_t used_ = 0, room_ = 0;
};

struct Argument {
    const char* value = nullptr;
    Interface_ParamType type = Interface_ParamVoid;
};

/// As the library counts them: a type with its list, or a list in one, before what holds it.
struct Record {
    const char* ident = nullptr; ///< "#12", "#0" for one without a number, "$1" ... for lists in it
    const char* type = nullptr;
    size_t arguments = 0, arguments_end = 0;
};

bool is_blank(char c) {
    return uint8_t(c) <= ' ';
}
bool is_digit(char c) {
    return c >= '0' && c <= '9';
}
bool is_word(char c) {
    return is_digit(c) || (c >= 'A' && c <= 'Z') || c == '_';
}

class Records {
  public:
    Records(const StepText& step, const StepShare& share) : step_(step), share_(share) {}

    bool add_header(std::string_view entity) {
        begin(entity);
        return simple("#0") && at_end();
    }

    bool add(size_t number) {
        const StepInstance& one = step_.instances[number];
        const char* ident = words_.keep(step_.text.substr(one.from, one.head - one.from));
        if (share_.foreign[number]) {
            begin("MANIFOLD_SOLID_BREP('',$)");
            return simple(ident);
        }
        begin(step_.body(one));
        ref_ = one.refs;
        skip_blanks();
        if (at_end() || text_[at_] != '(') return simple(ident) && at_end();
        ++at_; // several types at once
        skip_blanks();
        for (; !at_end() && text_[at_] != ')'; skip_blanks()) {
            if (!simple(ident)) return false;
            ident = "#0";
        }
        if (at_end()) return false;
        ++at_;
        skip_blanks();
        return at_end();
    }

    Handle(StepData_StepReaderData) data(int header_records, const Handle(StepData_StepModel) & model) const {
        Handle(StepData_StepReaderData) data = new StepData_StepReaderData(
            header_records, int(records_.size()), int(arguments_.size()), model->SourceCodePage());
        int number = 0;
        for (const Record& record : records_) {
            data->SetRecord(++number, record.ident, record.type, int(record.arguments_end - record.arguments));
            for (size_t i = record.arguments; i < record.arguments_end; ++i)
                data->AddStepParam(number, arguments_[i].value, arguments_[i].type);
            data->InitParams(number);
        }
        return data;
    }

    size_t size() const { return records_.size(); }

  private:
    void begin(std::string_view text) {
        text_ = text;
        at_ = 0;
    }
    bool at_end() const { return at_ >= text_.size(); }

    void skip_blanks() {
        while (!at_end()) {
            if (is_blank(text_[at_])) {
                ++at_;
            } else if (text_.compare(at_, 2, "/*") == 0) {
                const size_t end = text_.find("*/", at_ + 2);
                at_ = end == std::string_view::npos ? text_.size() : end + 2;
            } else {
                return;
            }
        }
    }

    template <class Is> std::string_view run(Is is) {
        const size_t from = at_;
        while (!at_end() && is(text_[at_])) ++at_;
        return text_.substr(from, at_ - from);
    }

    /// KEYWORD(...), and the blanks behind it.
    bool simple(const char* ident) {
        skip_blanks();
        const std::string_view keyword = run(is_word);
        skip_blanks();
        lists_ = 0;
        if (keyword.empty() || !list(ident, words_.keep(keyword), 0)) return false;
        skip_blanks();
        return true;
    }

    /// From "(" to behind its ")".
    bool list(const char* ident, const char* type, int depth) {
        constexpr int deepest = 32;
        if (at_end() || text_[at_] != '(' || depth > deepest) return false;
        ++at_;
        const size_t first = open_.size();
        skip_blanks();
        if (!at_end() && text_[at_] == ')') {
            ++at_;
        } else {
            while (true) {
                Argument argument;
                if (!read(argument, depth)) return false;
                open_.push_back(argument);
                skip_blanks();
                if (at_end()) return false;
                const char c = text_[at_++];
                if (c == ')') break;
                if (c != ',') return false;
                skip_blanks();
            }
        }
        Record record{ident, type, arguments_.size(), 0};
        arguments_.insert(arguments_.end(), open_.begin() + std::ptrdiff_t(first), open_.end());
        open_.resize(first);
        record.arguments_end = arguments_.size();
        records_.push_back(record);
        return true;
    }

    bool read(Argument& argument, int depth) {
        if (at_end()) return false;
        const char c = text_[at_];
        if (c == '#') return reference(argument);
        if (c == '\'') return string(argument);
        if (c == '$' || c == '*') {
            ++at_;
            return take(argument, c == '$' ? "$" : "*", c == '$' ? Interface_ParamVoid : Interface_ParamMisc);
        }
        if (c == '(') return nested(argument, "/* (SUB) */", depth);
        if (c == '.' || c == '"') return enclosed(argument, c);
        if (is_digit(c) || c == '-' || c == '+') return number(argument);
        const std::string_view type = run(is_word);
        skip_blanks();
        return !type.empty() && nested(argument, words_.keep(type), depth);
    }

    static bool take(Argument& argument, const char* value, Interface_ParamType type) {
        argument = {value, type};
        return true;
    }

    bool nested(Argument& argument, const char* type, int depth) {
        const char* ident = words_.keep(std::string(1, '$').append(std::to_string(++lists_)));
        return list(ident, type, depth + 1) && take(argument, ident, Interface_ParamSub);
    }

    bool reference(Argument& argument) {
        ++at_;
        if (run(is_digit).empty() || ref_ >= step_.refs.size()) return false;
        const StepInstance& to = step_.instances[share_.stands_for[step_.refs[ref_++].at]];
        return take(argument, words_.keep(step_.text.substr(to.from, to.head - to.from)), Interface_ParamIdent);
    }

    bool string(Argument& argument) {
        const size_t from = at_;
        do { // a quote in it is doubled
            at_ = text_.find('\'', at_ + 1);
            if (at_ == std::string_view::npos) return false;
            ++at_;
        } while (!at_end() && text_[at_] == '\'');
        return take(argument, words_.keep(text_.substr(from, at_ - from)), Interface_ParamText);
    }

    /// .NAME. or "0A"
    bool enclosed(Argument& argument, char mark) {
        const size_t from = at_++;
        if (run(is_word).empty() || at_end() || text_[at_] != mark) return false;
        ++at_;
        return take(argument, words_.keep(text_.substr(from, at_ - from)),
                    mark == '.' ? Interface_ParamEnum : Interface_ParamHexa);
    }

    bool number(Argument& argument) {
        const size_t from = at_;
        if (!is_digit(text_[at_])) ++at_;
        if (run(is_digit).empty()) return false;
        const bool real = !at_end() && text_[at_] == '.';
        if (real) {
            ++at_;
            run(is_digit);
            if (!at_end() && text_[at_] == 'E') {
                ++at_;
                if (!at_end() && (text_[at_] == '-' || text_[at_] == '+')) ++at_;
                if (run(is_digit).empty()) return false;
            }
        }
        return take(argument, words_.keep(text_.substr(from, at_ - from)),
                    real ? Interface_ParamReal : Interface_ParamInteger);
    }

    const StepText& step_;
    const StepShare& share_;
    KeptWords words_;
    std::vector<Record> records_;
    std::vector<Argument> arguments_, open_; ///< of finished lists, and of those that are being read
    std::string_view text_;
    size_t at_ = 0, ref_ = 0;
    int lists_ = 0; ///< in the type that is being read
};

} // namespace

Handle(StepData_StepModel)
    step_model(const StepText& step, const StepShare& share, const Handle(StepData_Protocol) & protocol) {
    Records records(step, share);
    for (std::string_view entity : step.header)
        if (!records.add_header(entity)) return nullptr;
    const size_t header_records = records.size();
    for (size_t i = 0; i < step.instances.size(); ++i)
        if (!share.unused[i] && share.stands_for[i] == i && !records.add(i)) return nullptr;
    Handle(StepData_StepModel) model = new StepData_StepModel;
    const Handle(StepData_StepReaderData) data = records.data(int(header_records), model);
    StepData_StepReaderTool tool(data, protocol);
    tool.SetErrorHandle(true);
    tool.PrepareHeader(nullptr);
    tool.Prepare(nullptr);
    tool.LoadModel(model);
    if (model->Protocol().IsNull()) model->SetProtocol(protocol);
    tool.Clear();
    return model;
}

} // namespace lp
