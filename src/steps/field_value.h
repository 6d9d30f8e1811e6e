// The value of a step's field as it was typed. Drawings and picked faces and edges are read once, when they are first
// asked for; all copies of the value, in all snapshots of the project, share what was read.
#pragma once
#include "outline/drawing.h"
#include "shape/face_reference.h"
#include <memory>

namespace lp {

class FieldValue {
  public:
    FieldValue() : FieldValue(std::string()) {}
    FieldValue(std::string text);
    FieldValue(const char* text) : FieldValue(std::string(text)) {}
    explicit FieldValue(Drawing drawing); ///< its text is written when it is asked for

    const std::string& text() const;
    operator const std::string&() const { return text(); }
    bool empty() const { return text().empty(); }
    /// As a drawing; the Problem says what cannot be read.
    const Expected<Drawing>& drawing() const;
    /// As faces and edges, picked or in words.
    const std::vector<GeometryItem>& geometry() const;
    bool operator==(const FieldValue& other) const { return cell_ == other.cell_ || text() == other.text(); }

  private:
    struct Cell;
    std::shared_ptr<Cell> cell_;
};

} // namespace lp
