// Drawn marks that carry meaning by shape: the fit ring and the findings. Never colour alone.
#pragma once
#include "fit/contacts.h"
#include <QPainter>
#include <QString>

namespace lp::theme {

/// A peg's section in its hole, in the given square. Right: even thin ring. Tight: pinched. Slack: small peg. Touching:
/// filled. Overlapping: filled and crossed. Unset: dashed.
void draw_fit_ring(QPainter& painter, const QRectF& square, FitState state);
QString fit_state_words(FitState state); ///< "as wanted", "tight" ...

/// Mark of a finding by its kind: hanging, mid-air, open, flipped, duplicate, tipping, too big ...
void draw_finding(QPainter& painter, const QRectF& square, const QString& kind);

/// A line-drawn icon in one weight: "eye", "eye-off", "plus", "close", "section", "undo", "more", "up", "down".
void draw_icon(QPainter& painter, const QRectF& square, const QString& name, const QColor& colour);
QIcon line_icon(const QString& name);

} // namespace lp::theme
