// Drawn marks that carry meaning by shape: the fit ring and the findings. Never colour alone.
#pragma once
#include "check/finding.h"
#include "fit/contacts.h"
#include <QPainter>
#include <QString>
#include <variant>

namespace lp::theme {

/// A peg's section in its hole, in the given square. Right: even thin ring. Tight: pinched. Slack: small peg. Touching:
/// filled. Overlapping: filled and crossed. Unset: dashed.
void draw_fit_ring(QPainter& painter, const QRectF& square, FitState state);

void draw_finding(QPainter& painter, const QRectF& square, FindingMark mark);
/// Marks of rows that are no findings: a measurement, what is as meant, what failed.
enum class Outcome { Measure, Sound, Failed };
void draw_outcome(QPainter& painter, const QRectF& square, Outcome outcome);
/// The mark of a row: of a contact, a finding, or another row.
using Mark = std::variant<FitState, FindingMark, Outcome>;
void draw_mark(QPainter& painter, const QRectF& square, const Mark& mark);

/// A line-drawn icon in one weight: "eye", "eye-off", "plus", "close", "section", "undo", "more", "up", "down".
void draw_icon(QPainter& painter, const QRectF& square, const QString& name, const QColor& colour);
QIcon line_icon(const QString& name);
/// The line drawing of something that can be done, data/icons/acts.svg; a plain dot where there is none.
void draw_act(QPainter& p, const QRectF& square, const QString& id, const QColor& ink);

} // namespace lp::theme
