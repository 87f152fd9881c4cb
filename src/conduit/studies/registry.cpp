#include "studies/registry.h"

#include "studies/pump_requests.h"
#include "studies/sizing.h"
#include "studies/sweep.h"
#include "studies/watched.h"

namespace conduit {

std::span<const Study* const> allStudies() {
  static const Study* const studies[] = {
      &watched::study,
      &sweep::study,
      &pumprequests::study,
      &sizing::study,
  };
  return studies;
}

}  // namespace conduit
