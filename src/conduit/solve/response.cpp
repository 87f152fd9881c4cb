#include "solve/response.h"

#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "solve/found_shifts.h"
#include "solve/index.h"
#include "solve/newton.h"
#include "solve/read_out.h"
#include "solve/released.h"

namespace conduit {

Places::Places(const Solution& a)
    : points_(3 * a.branches.size()),
      inflows_(points_ + a.pointHead_m.size()),
      vessels_(inflows_ + a.heldInflow_m3s.size()),
      count_(vessels_ + a.vesselHead_m.size()) {}

struct Response::Made {
  Made(System system, const Solution& answer)
      : s(std::move(system)),
        newton(s),
        x(newton.coldStart()),
        places(answer),
        branchBegin(answer.branchBegin),
        vesselBegin(answer.vesselBegin) {
    for (std::size_t i = 0; i < s.links.size(); ++i) linkOf[at(s.links[i].of)] = i;
    for (std::size_t i = 0; i < s.known.size(); ++i)
      if (s.known[i].shut) shutOf[at(s.known[i].of)] = i;
  }
  [[nodiscard]] std::size_t at(BranchOf b) const { return branchBegin[b.element] + u(b.branch); }

  System s;
  Newton newton;
  Iterate x;
  Places places;
  std::vector<std::uint32_t> branchBegin, vesselBegin;
  std::unordered_map<std::size_t, std::size_t> linkOf, shutOf;  // by place among the branches
  std::optional<Setting> setting;
  std::vector<double> widest;
  std::vector<std::pair<Id, std::size_t>> held;  // elements that hold the head of a point: its raw node
  std::optional<FoundShifts> found;              // where fields were found
  std::size_t foundFields = 0;
  std::vector<double> head, flow, excess, joinFlow;  // used again each time
  [[nodiscard]] bool hangs(int raw) const {
    const int node = s.rawToNode[u(raw)];
    return node < 0 || newton.hanging()[u(node)];
  }
};

Response::Response(std::unique_ptr<Made> made) : made_(std::move(made)) {}
Response::~Response() = default;
const Places& Response::places() const { return made_->places; }

namespace {

// Fields that were found, with their values, in the order in which the answer lists them; what an element
// swaps by itself is not among them. Empty where something else was found.
std::optional<Wanted> foundIn(const Network& network, const Setting& setting, const Solution& answer) {
  Wanted wanted = wantedOf(network, setting);
  std::vector<Unknown> unknowns;
  for (const FoundField& f : answer.found) {
    const auto k = std::find_if(wanted.unknowns.begin(), wanted.unknowns.end(), [&](const Unknown& u) {
      return u.element == f.element && u.field->key == f.field;
    });
    if (k == wanted.unknowns.end() || k->element == jobId || k->field->feltBeside) return std::nullopt;
    unknowns.push_back(*k);
    unknowns.back().value = f.value;
  }
  if (unknowns.size() != wanted.unknowns.size()) return std::nullopt;
  wanted.unknowns = std::move(unknowns);
  return wanted;
}

}  // namespace

std::unique_ptr<Response> Response::about(const Network& given, const Stock* stock, const Solution& answer,
                                          const std::map<Id, double>& passes) {
  if (!answer.summary.usable()) return nullptr;
  const auto setting = settingOf(given, stock);
  if (!setting) return nullptr;
  std::optional<Wanted> wanted;
  if (!answer.found.empty() && !(wanted = foundIn(given, *setting, answer))) return nullptr;
  const Network network = wanted ? filled(given, wanted->unknowns) : given;
  GivenInstead instead;
  instead.flows = passes;
  SetUp set = setUp(network, *setting, answer.widestBore_m, instead);
  if (!set.problems.empty() || !set.system.tees.empty()) return nullptr;
  auto made = std::make_unique<Made>(std::move(set.system), answer);
  made->setting = *setting, made->widest = answer.widestBore_m;
  const System& s = made->s;
  if (s.prepared.size() + 1 != answer.branchBegin.size()) return nullptr;
  startFrom(answer, s, made->x);
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const BranchState state = answer.branches[made->at(s.links[i].of)].state;
    const auto isFound = [&] {
      return std::any_of(answer.found.begin(), answer.found.end(),
                         [&](const FoundField& f) { return f.element == s.links[i].of.element; });
    };
    if (wanted && state != BranchState::shut && isFound()) {
      // By its value it follows its law.
      if (s.links[i].holds || s.links[i].choke) return nullptr;
      made->x.state[i] = LinkState::flowing;
      continue;
    }
    made->x.state[i] = state == BranchState::shut             ? LinkState::shut
                       : state == BranchState::open           ? LinkState::flowing
                       : s.links[i].holds || s.links[i].choke ? LinkState::acting
                                                              : LinkState::limiting;
  }
  network.each([&](Id id, const Element& e) {
    if (e.part->ends == Ends::one && !e.ends.empty() && s.prepared[id].holdsHead_m)
      made->held.push_back({id, u(s.pointRaw[e.ends[0]])});
  });
  if (!made->newton.linearise(made->x, Newton::Mode::exact)) return nullptr;
  std::unique_ptr<Response> response(new Response(std::move(made)));
  if (!wanted) return response;
  Solution plain = answer;
  plain.found.clear();
  auto found = FoundShifts::about(network, plain, *wanted, response->places(),
                                  [&](std::size_t k, std::vector<double>& shift) {
                                    return response->ofField(network, wanted->unknowns[k], shift);
                                  });
  if (!found) return nullptr;
  response->made_->found = std::move(found);
  response->made_->foundFields = wanted->unknowns.size();
  return response;
}

std::size_t Response::numbers() const { return made_->places.count() + made_->foundFields; }

void Response::follow(std::vector<double>& shift) const {
  if (made_->found) made_->found->follow(shift);
}

// By a little more and a little less of it: what the law of its one branch loses at its flow, the head it
// holds, or what flows in there.
bool Response::ofField(const Network& network, const Unknown& k, std::vector<double>& shift) {
  Made& m = *made_;
  const System& s = m.s;
  const Element& e = network.at(k.element);
  const auto [less, more] = aroundOf(k);
  if (!(more > less) || !e.part->prepare) return false;
  const Setting& setting = *m.setting;
  const auto places = endPlaces(network, e, setting, m.widest);
  const auto with = [&](double value) {
    return e.part->prepare(valuesWith(e, setting.stock, k, value), setting, places);
  };
  const Prepared a = with(less), b = with(more);
  if (!a.missing.empty() || !b.missing.empty() || a.problem || b.problem ||
      a.branches.size() != b.branches.size() || a.vessels.size() != b.vessels.size())
    return false;
  Newton::Change change;
  m.excess.assign(s.rawOwner.size(), 0.0);
  const auto holds = [&](int raw, double head) {
    const int node = s.rawToNode[u(raw)];
    if (node < 0 || s.isFree(node)) return false;
    change.head.push_back({node, head});
    return true;
  };
  if (a.holdsHead_m && b.holdsHead_m) {
    if (!holds(s.pointRaw[e.ends[0]], (*b.holdsHead_m - *a.holdsHead_m) / (more - less))) return false;
  } else if (a.vessels.size() == 1 && a.vessels[0].head_m && b.vessels[0].head_m && a.branches.empty()) {
    if (!holds(s.vesselBegin[k.element], (*b.vessels[0].head_m - *a.vessels[0].head_m) / (more - less)))
      return false;
  } else if (a.inflow_m3s != b.inflow_m3s) {
    const int raw = s.pointRaw[k.element], node = raw >= 0 ? s.rawToNode[u(raw)] : -1;
    const double by = (b.inflow_m3s - a.inflow_m3s) / (more - less);
    if (node < 0 || !s.isFree(node) || m.hangs(raw)) return false;
    change.outflow.push_back({node, -by});
    m.excess[u(raw)] += by;
  } else {
    if (a.branches.size() != 1 || !a.branches[0].law || !b.branches[0].law || !a.vessels.empty())
      return false;
    const auto link = m.linkOf.find(m.at({k.element, 0}));
    if (link == m.linkOf.end() || m.x.state[link->second] != LinkState::flowing) return false;
    double memory = 0.0, its = 0.0;
    const double q = m.x.flow_m3s[link->second];
    change.drop.push_back(
        {link->second,
         (b.branches[0].law->at(q, memory).drop_m - a.branches[0].law->at(q, its).drop_m) / (more - less)});
  }
  m.newton.respond(m.x, change, m.head, m.flow);
  spread(shift);
  return std::all_of(shift.begin(), shift.end(), [](double v) { return std::isfinite(v); });
}

bool Response::ofLoss(BranchOf branch, std::vector<double>& shift) {
  Made& m = *made_;
  const System& s = m.s;
  const auto found = m.linkOf.find(m.at(branch));
  if (found == m.linkOf.end() || m.x.state[found->second] != LinkState::flowing) return false;
  Newton::Change change;
  change.drop.push_back({found->second, 1.0});
  m.newton.respond(m.x, change, m.head, m.flow);
  m.excess.assign(s.rawOwner.size(), 0.0);
  spread(shift), follow(shift);
  return true;
}

bool Response::ofPassing(BranchOf branch, std::vector<double>& shift) {
  Made& m = *made_;
  const System& s = m.s;
  const auto found = m.shutOf.find(m.at(branch));
  if (found == m.shutOf.end()) return false;
  const KnownBranch& k = s.known[found->second];
  if (m.hangs(k.rawFrom) || m.hangs(k.rawTo)) return false;
  Newton::Change change;
  if (const int node = s.rawToNode[u(k.rawFrom)]; s.isFree(node)) change.outflow.push_back({node, 1.0});
  if (const int node = s.rawToNode[u(k.rawTo)]; s.isFree(node)) change.outflow.push_back({node, -1.0});
  m.newton.respond(m.x, change, m.head, m.flow);
  m.excess.assign(s.rawOwner.size(), 0.0);
  m.excess[u(k.rawFrom)] -= 1.0, m.excess[u(k.rawTo)] += 1.0;
  spread(shift);
  shift[m.places.flow(m.at(branch))] = 1.0;
  follow(shift);
  return true;
}

// From nodes and links to the places of an answer.
void Response::spread(std::vector<double>& shift) const {
  Made& m = *made_;
  const System& s = m.s;
  shift.assign(m.places.count(), 0.0);
  const std::vector<char>& hanging = m.newton.hanging();
  const auto headAt = [&](int raw) {
    const int node = s.rawToNode[u(raw)];
    return node >= 0 && !hanging[u(node)] ? m.head[u(node)] : 0.0;
  };
  const auto put = [&](BranchOf of, double flow, int from, int to) {
    const std::size_t b = m.at(of);
    shift[m.places.flow(b)] = flow;
    shift[m.places.headFrom(b)] = headAt(from), shift[m.places.headTo(b)] = headAt(to);
  };
  for (std::size_t i = 0; i < s.links.size(); ++i) {
    const Link& l = s.links[i];
    put(l.of, m.flow[i], l.rawFrom, l.rawTo);
    m.excess[u(l.rawTo)] += m.flow[i], m.excess[u(l.rawFrom)] -= m.flow[i];
  }
  for (const KnownBranch& k : s.known) put(k.of, 0.0, k.rawFrom, k.rawTo);
  if (!s.joins.empty()) {
    m.joinFlow.assign(s.joins.size(), 0.0);
    throughJoins(s, m.excess, m.joinFlow);
    for (std::size_t j = 0; j < s.joins.size(); ++j)
      put(s.joins[j].of, m.joinFlow[j], s.joins[j].rawFrom, s.joins[j].rawTo);
  }
  for (std::size_t id = 0; id < s.pointRaw.size(); ++id)
    if (s.pointRaw[id] >= 0) shift[m.places.head(static_cast<Id>(id))] = headAt(s.pointRaw[id]);
  for (const auto& [id, raw] : m.held) shift[m.places.inflow(id)] = -m.excess[raw];
  for (std::size_t id = 0; id + 1 < m.vesselBegin.size(); ++id)
    for (std::uint32_t v = m.vesselBegin[id]; v < m.vesselBegin[id + 1]; ++v)
      shift[m.places.vessel(v)] = headAt(s.vesselBegin[id] + static_cast<int>(v - m.vesselBegin[id]));
}

namespace {

// Where a function that falls comes to nothing, from its value at nothing outward; to a share of where it is,
// which is not known before (quantity/root.h wants it).
template <class F>
std::optional<double> rootOf(const F& falls, double first) {
  if (first == 0.0) return 0.0;
  double low = 0.0, high = 0.0, reach = first;
  for (int k = 0; low == high; ++k, reach *= 2) {
    if (k == 80 || !std::isfinite(reach)) return std::nullopt;
    if ((falls(reach) > 0) != (first > 0)) low = std::min(0.0, reach), high = std::max(0.0, reach);
  }
  for (int k = 0; k < 200 && high - low > 1e-9 * std::max(std::abs(low), std::abs(high)); ++k) {
    const double at = 0.5 * (low + high);
    (falls(at) > 0 ? low : high) = at;
  }
  return 0.5 * (low + high);
}

}  // namespace

// With d metres of loss more beside its own law the branch passes Q0 + d·s, s the flow per metre (less than
// nothing), and its own law drawn straight on loses h0 + h0'·d·s there. The other law takes its place where
// other(Q0 + d·s) = h0 + h0'·d·s + d. The left falls with d and the right rises, as s·h0' > −1: one answer.
std::optional<double> Response::lossMore(BranchOf branch, const Law* other,
                                         const std::vector<double>& shift) const {
  const std::size_t i = made_->linkOf.at(made_->at(branch));
  const double q0 = made_->x.flow_m3s[i], s = std::min(shift[made_->places.flow(made_->at(branch))],
                                                       0.0);  // nothing: it must pass what it does
  if (!other) return s < 0 ? std::optional(-q0 / s) : std::nullopt;
  double memory = 0.0, its = 0.0;
  const Loss own = made_->s.links[i].law->at(q0, memory);
  const auto miss = [&](double d) {
    return other->at(q0 + d * s, its).drop_m - own.drop_m - own.slope_sm2 * d * s - d;
  };
  return rootOf(miss, miss(0.0));
}

// The head there is between its ends falls by what 1 m3/s takes of it; the law rises.
std::optional<double> Response::flowPassing(BranchOf branch, const Law& law,
                                            const std::vector<double>& shift) const {
  const KnownBranch& k = made_->s.known[made_->shutOf.at(made_->at(branch))];
  const auto headAt = [&](int raw) { return made_->x.head_m[u(made_->s.rawToNode[u(raw)])]; };
  const std::size_t b = made_->at(branch);
  const double there = headAt(k.rawFrom) - headAt(k.rawTo),
               takes = shift[made_->places.headTo(b)] - shift[made_->places.headFrom(b)];
  double memory = 0.0;
  const auto miss = [&](double q) { return there - takes * q - law.at(q, memory).drop_m; };
  // In units of a flow that is its own.
  const double unit = law.startFlow_m3s();
  const double first = miss(0.0);
  const auto q = rootOf([&](double share) { return miss(share * unit); }, first);
  return q ? std::optional(*q * unit) : std::nullopt;
}

std::unique_ptr<const Law> lawOf(const Network& network, const Solution& answer, Id element) {
  const Element& e = network.at(element);
  if (!e.part->prepare) return nullptr;
  std::pmr::vector<EndPlace> places;
  Values scratch;
  endPlaces(network, e, answer.setting, answer.widestBore_m, places);
  const Prepared p = e.part->prepare(valuesWithFound(e, element, answer, scratch), answer.setting, places);
  if (p.problem || !p.missing.empty() || p.branches.empty() || p.branches[0].shut ||
      p.branches[0].givenFlow_m3s || !p.branches[0].law)
    return nullptr;
  return p.branches[0].law->copy();
}

}  // namespace conduit
