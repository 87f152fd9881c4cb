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
/// A check that somebody says does not apply, in his words.
struct LeftOut {
  Id element = noId;  // the job, a service or the element that says it
  std::string_view check;
  std::string why;
};
[[nodiscard]] std::vector<LeftOut> notApplicable(const Network& network);
/// "Pressure rating of L-1: rated by others"; of the job without its name.
[[nodiscard]] std::string leftOutSaid(const Network& network, const LeftOut& leftOut);
/// Those of the findings of which a law was used outside its range, counted by check; empty: none.
[[nodiscard]] std::string doubtfulSaid(const Network& network, std::span<const Finding> findings);

/// Counted by check; empty where there are none.
[[nodiscard]] std::string notJudgedSaid(const Network& network, std::span<const NotJudged> gaps);
/// "no rating is given", "the vapour pressure of the liquid is not given".
[[nodiscard]] std::string lackSaid(const NotJudged& gap);

}  // namespace conduit
