// Headers nearly every step, and what works with steps, needs; compiled once.
#pragma once
#include "base/precompiled.h"
#include "base/quantity.h"
#include "steps/step_kind.h"
