#include "sizing/programme.h"

namespace conduit {
namespace {

struct OfThread {
  OfThread() { glp_term_out(GLP_OFF); }
  ~OfThread() { glp_free_env(); }
};

}  // namespace

Programme emptyProgramme() {
  static thread_local const OfThread here;
  (void)here;
  return Programme(glp_create_prob());
}

}  // namespace conduit
