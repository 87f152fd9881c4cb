// What applies and could not be judged, since something is not known: said beside the verdict.
//
//   if (auto gaps = notJudged(network, answer); !gaps.empty())
//     out << "Not judged: " << notJudgedSaid(gaps);  // "Pressure rating: 12 lines; NPSH margin: 1 pump"
#pragma once

#include <span>
#include <string>
#include <vector>

#include "solve/solution.h"

namespace conduit {

struct NotJudged {
  CheckId check;
  Id element = noId;       // of which it is not judged
  Id place = noId;         // where what is lacking would be said: the element, or the job
  std::string_view field;  // there
};
/// In order of check, then of element. None of an answer that is of no use.
[[nodiscard]] std::vector<NotJudged> notJudged(const Network& network, const Solution& answer);
/// Counted by check; empty where there are none.
[[nodiscard]] std::string notJudgedSaid(const Network& network, std::span<const NotJudged> gaps);
/// "no rating is given", "the vapour pressure of the liquid is not given".
[[nodiscard]] std::string lackSaid(const NotJudged& gap);

}  // namespace conduit
