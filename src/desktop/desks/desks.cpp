// Where desks are hung up: one line each.
#include "desks/cases/cases_desk.h"
#include "desks/desk.h"
#include "desks/network/network_desk.h"
#include "desks/pumps/pumps_desk.h"
#include "desks/sizing/sizing_desk.h"

namespace conduit::desktop {

std::vector<Desk*> makeDesks(Document& document) {
  return {
      new NetworkDesk(document),
      new PumpsDesk(document),
      new SizingDesk(document),
      new CasesDesk(document),
  };
}

}  // namespace conduit::desktop
