// Contacts and measures in words: the window, the command line and reports say the same.
#pragma once
#include "fit/measuring.h"
#include "project/contact_ledger.h"

namespace lp {

/// "as wanted", "tight" ...
std::string fit_state_words(FitState state);
/// The same of a contact, of which "lies on its seat" is known besides.
std::string fit_state_words(const ContactResult& contact);
/// "Vial in Holder"; of bodies of one part "link 1 and link 2 of Drain chain".
std::string contact_title(const ContactResult& contact);
/// "loose 0.40 mm", or "not set".
std::string wanted_words(const Project& project, const ContactResult& contact);
/// "0.38 … 0.41 mm", or "far apart".
std::string found_words(const ContactResult& contact);
/// "overlaps by 31 mm³"; empty where nothing does, or it could not be worked out.
std::string overlap_words(const ContactResult& contact);
/// "loose · wanted 0.40 · found 0.38 … 0.41 mm": a contact in numbers.
std::string contact_words(const Project& project, const ContactResult& contact);
/// What a person should know besides: share too tight, fused layers, one lump. Empty when there is nothing.
std::string contact_warning(const ContactResult& contact);
/// "fuses when printed, layers 3 to 7".
std::string fused_words(const FusedLayers& fused);
/// "12.40 mm apart · parallel · centres 30.00 mm".
std::string measure_words(const Measured& measured);

} // namespace lp
