// A thread measured with calipers: how wide it is outside, and how long so many of its turns are.
#pragma once
#include "hardware/hardware.h"
#include <optional>

namespace lp {

struct MeasuredThread {
    double outer_mm = 0;
    double pitch_mm = 0; ///< the length over its turns
    double turns_per_inch() const { return 25.4 / pitch_mm; }
};

/// "27.4, 5 in 13.5": outside 27.4, five turns (from a crest to the fifth after it) in 13.5 mm. Words such as thread,
/// crests, turns and mm may stand in it. Nothing for other texts.
std::optional<MeasuredThread> measured_thread(const std::string& text);

struct NearThread {
    HardwareRow row;
    double outer_off_mm = 0, pitch_off_mm = 0; ///< of the row less the measured
};
/// Standard threads near it, the nearest first: by how far pitch and outer diameter are off, as shares. Outer threads
/// measure a little less than their size: up to 0.4 mm (ISO 965 6g for coarse sizes, rounded up) is taken for none.
std::vector<NearThread> threads_near(const Hardware& tables, const MeasuredThread& measured, size_t most = 3);

/// "Pitch 2.7 mm, 9.4 turns an inch. Nearest: ..." for a person.
std::string measured_words(const MeasuredThread& measured, const std::vector<NearThread>& near);

} // namespace lp
