#include "exchange/import_table.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>
#include <set>

#include "exchange/spread_out.h"
#include "fields/entry.h"
#include "fields/keys.h"
#include "network/arrange.h"
#include "network/put.h"
#include "parts/pipe/pipe.h"
#include "parts/point.h"
#include "parts/registry.h"
#include "quantity/parse.h"
#include "quantity/words.h"
#include "say/words.h"

namespace conduit {
namespace {

// Letters and digits alone, in small letters: "Start Node" and "start_node" are one word.
std::string bare(std::string_view text) {
  std::string out;
  for (const char c : text)
    if (std::isalnum(static_cast<unsigned char>(c)) || static_cast<unsigned char>(c) >= 0x80)
      out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

const Unit* unitNamed(Measure measure, std::string_view name) {
  if (name.empty()) return nullptr;
  for (const Unit& u : unitsOf(measure)) {
    if (u.symbol == name || bare(u.symbol) == bare(name)) return &u;
    if (fmt::format(" {} ", u.aliases).find(fmt::format(" {} ", name)) != std::string::npos) return &u;
  }
  return nullptr;
}

// "Bore [mm]", "length (m)", "flow, L/s", "length_m": the words and what may be a unit.
std::pair<std::string, std::string> headingAndUnit(std::string_view heading) {
  for (const auto& [open, close] : {std::pair{'[', ']'}, {'(', ')'}})
    if (const auto a = heading.find(open), b = heading.rfind(close);
        a != std::string_view::npos && b != std::string_view::npos && b > a)
      return {std::string(heading.substr(0, a)) + std::string(heading.substr(b + 1)),
              std::string(heading.substr(a + 1, b - a - 1))};
  if (const auto comma = heading.rfind(','); comma != std::string_view::npos) {
    const auto from = heading.find_first_not_of(' ', comma + 1);
    return {std::string(heading.substr(0, comma)),
            from == std::string_view::npos ? std::string() : std::string(heading.substr(from))};
  }
  for (const char by : {'_', ' '})
    if (const auto at = heading.rfind(by); at != std::string_view::npos && at > 0 && heading.size() - at < 8)
      return {std::string(heading.substr(0, at)), std::string(heading.substr(at + 1))};
  return {std::string(heading), {}};
}

struct Word {
  std::string_view word;
  ColumnIs is;
};
// Words of the trade for places and ends. Fields are known by their own keys and the words below.
constexpr Word places[] = {{"name", ColumnIs::name},
                           {"id", ColumnIs::name},
                           {"tag", ColumnIs::name},
                           {"label", ColumnIs::name},
                           {"designation", ColumnIs::name},
                           {"number", ColumnIs::name},
                           {"no", ColumnIs::name},
                           {"kind", ColumnIs::kind},
                           {"type", ColumnIs::kind},
                           {"x", ColumnIs::x},
                           {"easting", ColumnIs::x},
                           {"east", ColumnIs::x},
                           {"longitude", ColumnIs::x},
                           {"lon", ColumnIs::x},
                           {"xcoordinate", ColumnIs::x},
                           {"y", ColumnIs::y},
                           {"northing", ColumnIs::y},
                           {"north", ColumnIs::y},
                           {"latitude", ColumnIs::y},
                           {"lat", ColumnIs::y},
                           {"ycoordinate", ColumnIs::y},
                           {"from", ColumnIs::from},
                           {"start", ColumnIs::from},
                           {"frompoint", ColumnIs::from},
                           {"startpoint", ColumnIs::from},
                           {"fromnode", ColumnIs::from},
                           {"startnode", ColumnIs::from},
                           {"node1", ColumnIs::from},
                           {"point1", ColumnIs::from},
                           {"begin", ColumnIs::from},
                           {"upstream", ColumnIs::from},
                           {"to", ColumnIs::to},
                           {"end", ColumnIs::to},
                           {"topoint", ColumnIs::to},
                           {"endpoint", ColumnIs::to},
                           {"tonode", ColumnIs::to},
                           {"endnode", ColumnIs::to},
                           {"node2", ColumnIs::to},
                           {"point2", ColumnIs::to},
                           {"downstream", ColumnIs::to},
                           {"at", ColumnIs::at},
                           {"point", ColumnIs::at},
                           {"node", ColumnIs::at},
                           {"junction", ColumnIs::at},
                           {"x1", ColumnIs::fromX},
                           {"fromx", ColumnIs::fromX},
                           {"startx", ColumnIs::fromX},
                           {"y1", ColumnIs::fromY},
                           {"fromy", ColumnIs::fromY},
                           {"starty", ColumnIs::fromY},
                           {"z1", ColumnIs::fromHeight},
                           {"fromz", ColumnIs::fromHeight},
                           {"startz", ColumnIs::fromHeight},
                           {"fromheight", ColumnIs::fromHeight},
                           {"x2", ColumnIs::toX},
                           {"tox", ColumnIs::toX},
                           {"endx", ColumnIs::toX},
                           {"y2", ColumnIs::toY},
                           {"toy", ColumnIs::toY},
                           {"endy", ColumnIs::toY},
                           {"z2", ColumnIs::toHeight},
                           {"toz", ColumnIs::toHeight},
                           {"endz", ColumnIs::toHeight},
                           {"toheight", ColumnIs::toHeight}};
constexpr std::pair<std::string_view, std::string_view> fieldWords[] = {{"diameter", key::bore},
                                                                        {"dia", key::bore},
                                                                        {"insidediameter", key::bore},
                                                                        {"innerdiameter", key::bore},
                                                                        {"internaldiameter", key::bore},
                                                                        {"elevation", key::height},
                                                                        {"elev", key::height},
                                                                        {"z", key::height},
                                                                        {"level", key::height},
                                                                        {"groundlevel", key::height},
                                                                        {"demand", key::outflow},
                                                                        {"draw", key::outflow},
                                                                        {"consumption", key::outflow},
                                                                        {"drawoff", key::outflow},
                                                                        {"len", key::length},
                                                                        {"lengthofpipe", key::length},
                                                                        {"eps", key::roughness},
                                                                        {"epsilon", key::roughness},
                                                                        {"wallroughness", key::roughness},
                                                                        {"hazenwilliams", key::hazenC},
                                                                        {"hazenwilliamsc", key::hazenC},
                                                                        {"coefficientc", key::hazenC},
                                                                        {"minorloss", key::lossK},
                                                                        {"losscoefficient", key::lossK},
                                                                        {"zeta", key::lossK},
                                                                        {"fittings", key::takeOff},
                                                                        {"takeoff", key::takeOff},
                                                                        {"remarks", "note"},
                                                                        {"comment", "note"},
                                                                        {"pressurerating", "rating"},
                                                                        {"setpressure", "set point"},
                                                                        {"waterlevel", key::level},
                                                                        {"height", key::level}};

const Field* fieldByWord(const Part& part, std::string_view word) {
  for (const Field& f : part.fields)
    if (bare(f.key) == word || bare(spoken(f.key)) == word) return &f;
  for (const auto& [alias, key] : fieldWords)
    if (alias == word)
      if (const Field* f = findField(part, key)) return f;
  return nullptr;
}

const Part* partByWord(std::string_view word) {
  const std::string wanted = bare(word);
  for (const Part* part : allParts())
    if (part->ends != Ends::none &&
        (bare(part->key) == wanted || bare(part->plural) == wanted || bare(spoken(part->key)) == wanted ||
         (!wanted.empty() && wanted.back() == 's' && bare(part->key) == wanted.substr(0, wanted.size() - 1))))
      return part;
  return nullptr;
}

bool placed(Ends ends) {
  return ends == Ends::self || ends == Ends::many || ends == Ends::free || ends == Ends::one;
}

ColumnUse useOf(std::string_view heading, const Part* kind) {
  const auto [words, unitName] = headingAndUnit(heading);
  for (const bool withUnit : {false, true}) {  // the whole heading first: "minor loss" has no unit "loss"
    const std::string word = bare(withUnit ? words : std::string(heading));
    if (kind)
      if (const Field* f = fieldByWord(*kind, word)) {
        if (!withUnit || unitNamed(f->measure, unitName))
          return {ColumnIs::field, std::string(f->key), withUnit ? unitNamed(f->measure, unitName) : nullptr};
        if (heading.find_first_of("[(,") != std::string_view::npos)
          return {ColumnIs::field, std::string(f->key), nullptr};
      }
    if (kind && (word == bare(kind->key) || word + "s" == bare(kind->plural)))
      return {ColumnIs::name, {}, nullptr};  // "Line" heads the names of lines
    for (const Word& w : places)
      if (w.word == word && (!withUnit || unitNamed(Measure::length, unitName) ||
                             heading.find_first_of("[(") != std::string_view::npos)) {
        if (kind && w.is == ColumnIs::at && kind->ends == Ends::self)
          return {ColumnIs::name, {}, nullptr};  // "node" heads the names of points
        const bool ends = w.is == ColumnIs::from || w.is == ColumnIs::to ||
                          (w.is >= ColumnIs::fromX && w.is <= ColumnIs::toHeight);
        if (kind && ((ends && kind->ends != Ends::two) || (w.is == ColumnIs::at && kind->ends != Ends::one) ||
                     ((w.is == ColumnIs::x || w.is == ColumnIs::y) && !placed(kind->ends))))
          continue;
        return {w.is, {}, withUnit ? unitNamed(Measure::length, unitName) : nullptr};
      }
    if (!kind)
      for (const Part* part : allParts())
        if (part->ends != Ends::none)
          if (const Field* f = fieldByWord(*part, word); f && (!withUnit || unitNamed(f->measure, unitName)))
            return {ColumnIs::field, std::string(f->key),
                    withUnit ? unitNamed(f->measure, unitName) : nullptr};
  }
  return {};
}

/// A row read whole: what it is, and the values it gives.
struct Row {
  const Part* part = nullptr;
  Id id = noId;  // of the element it changes
  std::string name, from, to, at;
  std::optional<double> x, y, fromX, fromY, toX, toY;
  std::optional<Value> fromHeight, toHeight;
  std::vector<std::pair<std::string_view, Value>> values;
  std::size_t index = 0;
};

class Bringer {
 public:
  Bringer(const Network& network, const Grid& grid, const ImportPlan& plan, const Stock* stock,
          const UnitSet& units)
      : grid_(grid), plan_(plan), stock_(stock), units_(units), draft_(network) {
    network.each([&](Id id, const Element& e) {
      if (e.part->ends == Ends::self) enterSpot(id, e.at);
    });
  }

  Result<Imported> run(const std::function<void(double)>& progress, const std::stop_token& stop) {
    for (std::size_t i = 0; i < grid_.rows.size(); ++i) {
      if ((i & 1023) == 0) {
        if (stop.stop_requested()) return Refused(Problem{{}, "import stopped; nothing has changed", {}});
        if (progress) progress(0.5 * static_cast<double>(i) / static_cast<double>(grid_.rows.size()));
      }
      read(i);
    }
    // Points first, then what stands at one place, then what joins two: whatever the order of the rows.
    std::size_t done = 0;
    for (const int stage : {0, 1, 2})
      for (Row& row : rows_) {
        const Ends ends = row.part->ends;
        if ((ends == Ends::self || ends == Ends::free ? 0 : ends == Ends::two ? 2 : 1) != stage) continue;
        if ((++done & 1023) == 0) {
          if (stop.stop_requested()) return Refused(Problem{{}, "import stopped; nothing has changed", {}});
          if (progress) progress(0.5 + 0.45 * static_cast<double>(done) / static_cast<double>(rows_.size()));
        }
        take(row);
      }
    spreadOut(draft_, unplaced_);
    if (progress) progress(1.0);
    std::sort(out_.refused.begin(), out_.refused.end(),
              [](const RefusedRow& a, const RefusedRow& b) { return a.row < b.row; });
    out_.edited = {fmt::format("Import {} rows", out_.made + out_.changed), std::move(draft_).finish()};
    return std::move(out_);
  }

 private:
  bool refuse(std::size_t row, std::string column, std::string what) {
    ++out_.refusedCount;
    if (out_.refused.size() < 1000)
      out_.refused.push_back({row, grid_.line[row], std::move(column), std::move(what)});
    return false;
  }
  std::string headingOf(std::size_t c) const {
    return c < grid_.headings.size() && !grid_.headings[c].empty() ? grid_.headings[c]
                                                                   : fmt::format("column {}", c + 1);
  }

  // A cell's text as a quantity of a measure, bare numbers in the column's unit.
  std::string withUnitOf(const std::string& cell, const ColumnUse& use, Measure measure) const {
    const std::string plain = plainNumber(cell, plan_.decimalComma);
    const bool number = !plain.empty() && plain.find_first_not_of("0123456789.+-eE") == std::string::npos;
    if (!number) return plan_.decimalComma ? decimalPoints(cell) : cell;
    const Unit& unit = use.unit ? *use.unit : units_.unitFor(measure);
    return unit.symbol.empty() ? plain : plain + " " + std::string(unit.symbol);
  }
  // "12,5 mm" of a dialect with decimal commas.
  static std::string decimalPoints(std::string text) {
    const auto end = text.find_first_not_of("0123456789.,+- ");
    const std::string number = plainNumber(text.substr(0, end), true);
    return end == std::string::npos ? number : number + " " + text.substr(end);
  }

  static std::optional<double>& placeIn(Row& row, ColumnIs is) {
    return is == ColumnIs::x       ? row.x
           : is == ColumnIs::y     ? row.y
           : is == ColumnIs::fromX ? row.fromX
           : is == ColumnIs::fromY ? row.fromY
           : is == ColumnIs::toX   ? row.toX
                                   : row.toY;
  }

  bool number(std::size_t row, std::size_t c, const std::string& cell, std::optional<double>& into) {
    const ColumnUse& use = plan_.columns[c];
    static const Unit& metre = unitsOf(Measure::length).front();
    const auto given =
        parse(plainNumber(cell, plan_.decimalComma), Measure::length, use.unit ? use.unit : &metre);
    if (!given || !std::isfinite(given->value) || std::abs(given->value) > 1e8)
      return refuse(row, headingOf(c), fmt::format("\"{}\" is not a coordinate", cell.substr(0, 40)));
    into = given->value;
    return true;
  }

  bool read(std::size_t i) {
    const auto& cells = grid_.rows[i];
    Row row;
    row.index = i;
    row.part = plan_.kind;
    for (std::size_t c = 0; c < plan_.columns.size() && c < cells.size(); ++c)
      if (plan_.columns[c].is == ColumnIs::kind && !cells[c].empty()) {
        row.part = partByWord(cells[c]);
        if (!row.part)
          return refuse(i, headingOf(c), fmt::format("unknown kind \"{}\"", cells[c].substr(0, 40)));
      }
    if (!row.part) return refuse(i, "kind", "the row has no kind");
    for (std::size_t c = 0; c < plan_.columns.size() && c < cells.size(); ++c) {
      const ColumnUse& use = plan_.columns[c];
      const std::string& cell = cells[c];
      if (use.is == ColumnIs::left || use.is == ColumnIs::kind || cell.empty()) continue;
      if (cell.front() == '=' || cell.starts_with("#REF") || cell.starts_with("#N/A") ||
          cell.starts_with("#VALUE") || cell.starts_with("#DIV") || cell.starts_with("#NAME"))
        return refuse(
            i, headingOf(c),
            fmt::format("\"{}\" is a formula or a formula error: copy the values", cell.substr(0, 30)));
      switch (use.is) {
        case ColumnIs::name: row.name = cell; break;
        case ColumnIs::from: row.from = cell; break;
        case ColumnIs::to: row.to = cell; break;
        case ColumnIs::at: row.at = cell; break;
        case ColumnIs::x:
        case ColumnIs::y:
        case ColumnIs::fromX:
        case ColumnIs::fromY:
        case ColumnIs::toX:
        case ColumnIs::toY:
          if (!number(i, c, cell, placeIn(row, use.is))) return false;
          break;
        case ColumnIs::fromHeight:
        case ColumnIs::toHeight: {
          static const Field& height = *findField(point::part, key::height);
          auto value = readField(height, withUnitOf(cell, use, Measure::height), stock_, nullptr);
          if (!value) return refuse(i, headingOf(c), value.error().what);
          (use.is == ColumnIs::fromHeight ? row.fromHeight : row.toHeight) = std::move(*value);
          break;
        }
        case ColumnIs::field: {
          const Field* field = findField(*row.part, use.field);
          if (!field) break;  // of another kind in the same table
          if (field->kind == FieldKind::table)
            return refuse(i, headingOf(c),
                          fmt::format("the {} is a table and cannot be imported", spoken(field->key)));
          const std::string text = field->kind == FieldKind::quantity ? withUnitOf(cell, use, field->measure)
                                   : field->kind == FieldKind::choice ? choiceWord(*field, cell)
                                   : field->kind == FieldKind::flag   ? lowered(cell)
                                                                      : cell;
          auto value = readField(*field, text, stock_, nullptr);
          if (!value) return refuse(i, headingOf(c), value.error().what);
          row.values.emplace_back(field->key, std::move(*value));
          break;
        }
        case ColumnIs::left:
        case ColumnIs::kind: break;
      }
    }
    if (!row.name.empty()) {
      if (const std::string fault = nameFault(row.name); !fault.empty()) return refuse(i, "name", fault);
      const auto [it, fresh] = names_.emplace(row.name, i);
      if (!fresh)
        return refuse(i, "name", fmt::format("{} is already in row {}", row.name, grid_.line[it->second]));
      row.id = draft_.network().byName(row.name);
      if (row.id != noId && draft_.network().at(row.id).part != row.part)
        return refuse(i, "name",
                      fmt::format("{} is a {} in the model and a {} here", row.name,
                                  draft_.network().at(row.id).part->key, spoken(row.part->key)));
    }
    rows_.push_back(std::move(row));
    return true;
  }

  static std::string choiceWord(const Field& field, const std::string& cell) {
    for (const std::string_view word : field.choices)
      if (bare(word) == bare(cell)) return std::string(word);
    return cell;
  }

  void enterSpot(Id point, Spot s) {
    spots_[{std::llround(s.x / joint_m), std::llround(s.y / joint_m)}].push_back(point);
  }
  // The point that stands there, within a few centimetres.
  Id pointAt(double x, double y) const {
    const auto cx = std::llround(x / joint_m), cy = std::llround(y / joint_m);
    for (long long dx = -1; dx <= 1; ++dx)
      for (long long dy = -1; dy <= 1; ++dy)
        if (const auto it = spots_.find({cx + dx, cy + dy}); it != spots_.end())
          for (const Id id : it->second) {
            const Spot s = draft_.network().at(id).at;
            if (std::hypot(s.x - x, s.y - y) <= joint_m) return id;
          }
    return noId;
  }
  Id makePoint(const std::string& name, std::optional<Spot> at) {
    const Id id = draft_.addPoint(name, at.value_or(Spot{}));
    if (at) enterSpot(id, *at);
    else unplaced_.push_back(id);
    ++out_.pointsMade;
    return id;
  }
  void setHeight(Id point, const std::optional<Value>& height) {
    if (height)
      draft_.values(point).set(findField(*draft_.network().at(point).part, key::height)->key, *height);
  }

  // Where an end is to be joined; a tank gets a connection. Nothing is made before both ends are known to be
  // good.
  bool endFault(std::size_t row, const char* column, const std::string& name, bool coordinates) {
    if (name.empty())
      return coordinates ? false
                         : (refuse(row, column,
                                   fmt::format("the row does not give its {} point",
                                               std::string_view(column) == "from" ? "start" : "end")),
                            true);
    const Id id = draft_.network().byName(name);
    if (id == noId) {
      if (!plan_.makePoints && !coordinates)
        return refuse(row, column, fmt::format("there is no {}", name)), true;
      if (const std::string fault = nameFault(name); !fault.empty()) return refuse(row, column, fault), true;
      if (const auto named = names_.find(name); named != names_.end())
        return refuse(row, column,
                      fmt::format("{} is in row {}, which was refused or is not a point", name,
                                  grid_.line[named->second])),
               true;
      return false;
    }
    const Ends ends = draft_.network().at(id).part->ends;
    if (ends == Ends::self || ends == Ends::many) return false;
    if (ends == Ends::one) return false;
    return refuse(row, column,
                  fmt::format("{} is a {}: a line must end at a point", name,
                              draft_.network().at(id).part->key)),
           true;
  }
  Id endOf(const std::string& name, std::optional<double> x, std::optional<double> y) {
    const auto spot = x && y ? std::optional(Spot{*x, *y}) : std::nullopt;
    if (name.empty()) {
      const Id there = pointAt(*x, *y);
      return there != noId ? there : makePoint("", spot);
    }
    const Id id = draft_.network().byName(name);
    if (id == noId) return makePoint(name, spot);
    const Element& e = draft_.network().at(id);
    if (e.part->ends == Ends::one) return e.ends[0];
    if (e.part->ends == Ends::many) {  // a connection of its own
      const Id point = draft_.addPoint("", {e.at.x + 1.0 + 0.3 * static_cast<double>(e.ends.size()), e.at.y});
      if (const auto level = givenSi(e.values, key::level))
        draft_.values(point).set(findField(*draft_.network().at(point).part, key::height)->key,
                                 metresGiven(*level - 1.0));
      draft_.addEnd(id, point);
      ++out_.pointsMade;
      return point;
    }
    return id;
  }

  void take(Row& row) {
    const Ends ends = row.part->ends;
    Id id = row.id;
    const bool fresh = id == noId;
    const bool spot = row.x && row.y;
    if (ends == Ends::two) {
      const bool fromPlace = row.fromX && row.fromY, toPlace = row.toX && row.toY;
      if (fresh || !row.from.empty() || fromPlace)
        if (endFault(row.index, "from", row.from, fromPlace)) return;
      if (fresh || !row.to.empty() || toPlace)
        if (endFault(row.index, "to", row.to, toPlace)) return;
      if ((!row.from.empty() && row.from == row.to) ||
          (fromPlace && toPlace && row.from.empty() && row.to.empty() &&
           std::hypot(*row.fromX - *row.toX, *row.fromY - *row.toY) <= joint_m)) {
        refuse(row.index, "to", "starts and ends at the same point");
        return;
      }
      if (fresh) {
        const Id from = endOf(row.from, row.fromX, row.fromY), to = endOf(row.to, row.toX, row.toY);
        if (from == to) {
          refuse(row.index, "to", "starts and ends at the same point");
          return;
        }
        id = draft_.add(*row.part, row.name, {from, to});
        setHeight(from, row.fromHeight), setHeight(to, row.toHeight);
      } else {
        if (!row.from.empty() || fromPlace) draft_.joinEnd(id, 0, endOf(row.from, row.fromX, row.fromY));
        if (!row.to.empty() || toPlace) draft_.joinEnd(id, 1, endOf(row.to, row.toX, row.toY));
        setHeight(draft_.network().at(id).ends[0], row.fromHeight),
            setHeight(draft_.network().at(id).ends[1], row.toHeight);
      }
    } else if (ends == Ends::one) {
      if (fresh) {
        if (row.at.empty() && !spot) {
          refuse(row.index, "at", "the row gives no point");
          return;
        }
        if (endFault(row.index, "at", row.at, spot)) return;
        id = draft_.add(*row.part, row.name, {endOf(row.at, row.x, row.y)});
      } else if (!row.at.empty()) {
        if (endFault(row.index, "at", row.at, false)) return;
        draft_.joinEnd(id, 0, endOf(row.at, {}, {}));
      }
    } else if (fresh) {
      id = ends == Ends::self ? draft_.addPoint(row.name, spot ? Spot{*row.x, *row.y} : Spot{})
                              : draft_.add(*row.part, row.name, {}, spot ? Spot{*row.x, *row.y} : Spot{});
      if (ends == Ends::self && spot) enterSpot(id, {*row.x, *row.y});
      if (!spot) unplaced_.push_back(id);
    } else if (spot) {
      draft_.move(id, {*row.x, *row.y});
    }
    if (!row.values.empty()) {
      Values& values = draft_.values(id);
      for (auto& [key, value] : row.values) values.set(key, std::move(value));
    }
    // Drawn to scale without a length of its own: that of the drawing.
    if (fresh && ends == Ends::two && row.part->geometry && row.fromX && row.toX &&
        toScale(draft_.network()) && !draft_.network().at(id).value(key::length) &&
        !draft_.network().at(id).value(key::takeOff))
      draft_.values(id).set(findField(*row.part, key::length)->key,
                            metresGiven(drawnLength_m(draft_.network(), draft_.network().at(id))));
    ++(fresh ? out_.made : out_.changed);
    out_.touched.push_back(id);
  }

  static constexpr double joint_m = 0.05;
  const Grid& grid_;
  const ImportPlan& plan_;
  const Stock* stock_;
  const UnitSet& units_;
  Draft draft_;
  std::vector<Row> rows_;
  std::map<std::string, std::size_t, std::less<>> names_;
  std::map<std::pair<long long, long long>, std::vector<Id>> spots_;
  std::vector<Id> unplaced_;
  Imported out_;
};

}  // namespace

std::string wordsOf(const ColumnUse& use) {
  static constexpr std::string_view words[] = {"ignore",       "name",  "kind",     "x",         "y",
                                               "from",         "to",    "at point", "start x",   "start y",
                                               "start height", "end x", "end y",    "end height"};
  if (use.is != ColumnIs::field) return std::string(words[static_cast<std::size_t>(use.is)]);
  return use.unit && !use.unit->symbol.empty() ? fmt::format("{}, {}", spoken(use.field), use.unit->symbol)
                                               : spoken(use.field);
}

std::vector<ColumnChoice> columnChoices(const Part* kind) {
  std::vector<ColumnChoice> choices;
  auto add = [&](ColumnUse use) { choices.push_back({use, wordsOf(use)}); };
  for (const ColumnIs is : {ColumnIs::left, ColumnIs::name}) add({is, {}, nullptr});
  const bool any = !kind;
  if (any) add({ColumnIs::kind, {}, nullptr});
  if (any || placed(kind->ends)) add({ColumnIs::x, {}, nullptr}), add({ColumnIs::y, {}, nullptr});
  if (any || kind->ends == Ends::one) add({ColumnIs::at, {}, nullptr});
  if (any || kind->ends == Ends::two)
    for (const ColumnIs is : {ColumnIs::from, ColumnIs::to, ColumnIs::fromX, ColumnIs::fromY,
                              ColumnIs::fromHeight, ColumnIs::toX, ColumnIs::toY, ColumnIs::toHeight})
      add({is, {}, nullptr});
  std::set<std::string_view> seen;
  for (const Part* part : allParts())
    if (part->ends != Ends::none && (any || part == kind))
      for (const Field& f : part->fields)
        if (f.kind != FieldKind::table && seen.insert(f.key).second)
          add({ColumnIs::field, std::string(f.key), nullptr});
  return choices;
}

ImportPlan proposePlan(const Grid& grid, const Dialect& dialect, const Part* kind, const UnitSet&,
                       const Network* network) {
  ImportPlan plan;
  plan.decimalComma = dialect.decimalComma;
  plan.kind = kind;
  std::set<std::string> words;
  for (const std::string& h : grid.headings)
    words.insert(bare(headingAndUnit(h).first)), words.insert(bare(h));
  bool kindColumn = false;
  if (!kind) {
    // A kind column says it row by row; else two ends make lines; else they are points.
    std::size_t c = 0;
    for (const std::string& h : grid.headings) {
      if (useOf(h, nullptr).is == ColumnIs::kind) {
        std::size_t known = 0, said = 0;
        for (std::size_t r = 0; r < grid.rows.size() && r < 50; ++r)
          if (c < grid.rows[r].size() && !grid.rows[r][c].empty())
            ++said, known += partByWord(grid.rows[r][c]) != nullptr;
        kindColumn = kindColumn || (said > 0 && known * 2 >= said);
      }
      ++c;
    }
    bool from = false, to = false;
    for (const std::string& h : grid.headings) {
      const ColumnIs is = useOf(h, &pipe::part).is;
      from = from || is == ColumnIs::from || is == ColumnIs::fromX;
      to = to || is == ColumnIs::to || is == ColumnIs::toX;
    }
    if (!kindColumn) plan.kind = findPart(from && to ? "pipe" : "point");
    if (!kindColumn && network && !(from && to)) {
      // Names that are there already say what the rows are.
      for (std::size_t h = 0; h < grid.headings.size(); ++h) {
        if (useOf(grid.headings[h], plan.kind).is != ColumnIs::name) continue;
        for (std::size_t r = 0; r < grid.rows.size() && r < 50; ++r)
          if (const Id known = h < grid.rows[r].size() ? network->byName(grid.rows[r][h]) : noId;
              known != noId) {
            plan.kind = network->at(known).part;
            break;
          }
        break;
      }
    }
  }
  std::set<std::string> taken;
  for (std::size_t c = 0; c < grid.columns; ++c) {
    ColumnUse use = c < grid.headings.size() ? useOf(grid.headings[c], plan.kind) : ColumnUse{};
    if (use.is == ColumnIs::kind && !kindColumn) use = {};
    if (use.is != ColumnIs::left && !taken.insert(wordsOf({use.is, use.field, nullptr})).second) use = {};
    plan.columns.push_back(use);
  }
  if (grid.headings.empty() && !grid.rows.empty() && plan.kind) {
    // By what stands there: a first column of words is the name, two more behind it are the ends of a line.
    auto isText = [&](std::size_t c) {
      if (c >= grid.rows.front().size()) return false;
      const std::string plain = plainNumber(grid.rows.front()[c], dialect.decimalComma);
      return !plain.empty() && plain.find_first_not_of("0123456789.+-eE") != std::string::npos;
    };
    std::size_t c = 0;
    if (isText(0)) plan.columns[c++] = {ColumnIs::name, {}, nullptr};
    if (plan.kind->ends == Ends::two && isText(c) && isText(c + 1)) {
      plan.columns[c++] = {ColumnIs::from, {}, nullptr};
      plan.columns[c++] = {ColumnIs::to, {}, nullptr};
    }
  }
  return plan;
}

std::string Imported::words() const {
  std::string words;
  auto add = [&](std::size_t n, std::string_view what) {
    if (n) words += fmt::format("{}{} {}", words.empty() ? "" : ", ", n, what);
  };
  add(made, "new");
  add(changed, "changed");
  add(pointsMade, pointsMade == 1 ? "new end point" : "new end points");
  add(refusedCount, refusedCount == 1 ? "row refused" : "rows refused");
  return words.empty() ? "nothing to import" : words;
}

Result<Imported> importTable(const Network& network, const Grid& grid, const ImportPlan& plan,
                             const Stock* stock, const UnitSet& units,
                             const std::function<void(double)>& progress, std::stop_token stop) {
  if (std::all_of(plan.columns.begin(), plan.columns.end(),
                  [](const ColumnUse& u) { return u.is == ColumnIs::left; }))
    return Refused(Problem{{}, "no column is assigned: assign at least one", {}});
  return Bringer(network, grid, plan, stock, units).run(progress, stop);
}

}  // namespace conduit
