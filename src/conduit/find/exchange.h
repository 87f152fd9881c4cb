// A found number is to be given: what could be found in its place, and what each of that would then be.
#pragma once

#include <stop_token>

#include "solve/solve.h"

namespace conduit {

/// One field that could be found instead. Its edits give the number and let that field be found.
struct Exchange {
  Remedy remedy;
  Id element = noId;       // noId: nothing need be found, something was free already
  std::string_view field;  // of that element
};

/// Likeliest first, as an engineer would turn them: what is made to be turned, near by, that the number hangs
/// on; sizes last. `text` is the number as typed. A Problem when it cannot be read or nothing could be found
/// in its place.
[[nodiscard]] Result<std::vector<Exchange>> exchangesFor(const Network& network, const Stock* stock,
                                                         const UnitSet& units, Id id,
                                                         std::string_view outcome, std::string_view text,
                                                         std::size_t most = 8, std::stop_token stop = {});

/// The network with that exchange made, solved. Without a value where no table or choice is a number.
struct ExchangeTried {
  bool balances = false;
  std::optional<double> value_si;
  std::string why;         // it does not balance: the first reason, in the solver's own words
  std::size_t broken = 0;  // limits that would then be broken
  double change = 0.0;     // of the field from what it was, |ln| of the ratio; the greatest where it was none
};
/// Which of two is to be offered first: what can be before what is not tried, what cannot last; then what
/// breaks no limit more, the element's own fields, the least change.
[[nodiscard]] bool offeredBefore(const Exchange& one, const std::optional<ExchangeTried>& oneTried,
                                 const Exchange& other, const std::optional<ExchangeTried>& otherTried,
                                 Id own);
[[nodiscard]] ExchangeTried tryExchange(const Network& network, const Stock* stock, const UnitSet& units,
                                        const Exchange& exchange, const Solution* from, std::stop_token stop);

}  // namespace conduit
