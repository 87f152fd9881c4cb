#include "parts/registry.h"

#include "parts/check_valve.h"
#include "parts/control_valve.h"
#include "parts/differential_valve.h"
#include "parts/dimension.h"
#include "parts/exchanger.h"
#include "parts/fixed_pressure.h"
#include "parts/isolating_valve.h"
#include "parts/job.h"
#include "parts/limiting_valve.h"
#include "parts/meter.h"
#include "parts/nozzle.h"
#include "parts/orifice_plate.h"
#include "parts/own_loss.h"
#include "parts/picture.h"
#include "parts/pipe/pipe.h"
#include "parts/point.h"
#include "parts/pump/pump.h"
#include "parts/reducing_valve.h"
#include "parts/relief_valve.h"
#include "parts/remark.h"
#include "parts/service.h"
#include "parts/strainer.h"
#include "parts/sustaining_valve.h"
#include "parts/tank.h"

namespace conduit {

std::span<const Part* const> allParts() {
  static const Part* const parts[] = {
      &job::part,
      &point::part,
      &tank::part,
      &fixedpressure::part,
      &pipe::part,
      &pump::part,
      &isolatingvalve::part,
      &controlvalve::part,
      &checkvalve::part,
      &reducingvalve::part,
      &sustainingvalve::part,
      &limitingvalve::part,
      &differentialvalve::part,
      &reliefvalve::part,
      &strainer::part,
      &meter::part,
      &exchanger::part,
      &orificeplate::part,
      &ownloss::part,
      &nozzle::part,
      &remark::part,
      &dimension::part,
      &picture::part,
      &service::part,
  };
  return parts;
}

const Part* findPart(std::string_view key) {
  for (const Part* part : allParts())
    if (part->key == key) return part;
  return nullptr;
}

const Part* partByLetter(char letter) {
  for (const Part* part : allParts())
    if (part->letter && part->letter == letter) return part;
  return nullptr;
}

}  // namespace conduit
