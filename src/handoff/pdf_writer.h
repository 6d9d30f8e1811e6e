// Pages of headings, sentences, tables and pictures, written as PDF (by cairo and Pango).
#pragma once
#include "base/problem.h"
#include "handoff/page_drawing.h"
#include "handoff/part_picture.h"
#include <memory>
#include <string>
#include <vector>

namespace lp {

/// What is no UTF-8 is replaced.
std::string valid_utf8(const std::string& text);

enum class Paper { A4, Letter };
/// Width and height in points (1/72 inch): A4 is 210 x 297 mm (ISO 216), Letter 8.5 x 11 inches (ASME Y14.1).
Vec2 paper_points(Paper paper);

struct PdfColumn {
    std::string title;
    double share = 1;    ///< of the width
    bool number = false; ///< stands at the right
};

/// A line with an arrow at each end, or at `to` alone, and words beside its middle, over a picture; pixels.
struct PdfDimension {
    Vec2 from, to;
    Vec2 aside; ///< unit: to the side where the words stand
    std::string words;
    bool one_way = false; ///< a movement from there to here, no size
};
struct PdfPicture {
    PartPicture picture;
    std::vector<PdfDimension> dimensions;
};

/// Writes from top to bottom, and goes to the next page where it is full. Text that is no UTF-8 is mended.
class PdfWriter {
  public:
    PdfWriter(Paper paper, std::string footer);
    ~PdfWriter();
    void title(const std::string& text);
    /// On the page of what comes next.
    void heading(const std::string& text);
    void paragraph(const std::string& text);
    /// Cells may hold several lines; the head is told again on every page. A cell that is "#rrggbb" becomes a swatch
    /// beside those letters.
    void table(const std::vector<PdfColumn>& columns, const std::vector<std::vector<std::string>>& rows);
    /// A picture at the left, a bold line and sentences beside it; never parted.
    void beside(const PdfPicture& picture, const std::string& name, const std::vector<std::string>& sentences);
    /// Lines and words as they are, in the middle; never parted.
    void drawing(const PageDrawing& drawing);
    /// Of a page that is begun, in points.
    Vec2 room() const;
    /// The document. Nothing more may be written.
    Expected<std::string> finish();
    int pages() const;

  private:
    struct Impl;
    std::unique_ptr<Impl> impl_;
};

} // namespace lp
