// All law types; a new one is declared here and listed in `law_types.cpp`.
#pragma once

#include "simulation/laws/law_type.h"

namespace mooring::simulation {

extern const LawType kRotorLaw, kDragLaw, kBuoyancyLaw;

}  // namespace mooring::simulation
