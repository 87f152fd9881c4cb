#include "sweep_command.h"

#include <fmt/format.h>
#include <unistd.h>

#include <CLI/CLI.hpp>

#include <atomic>
#include <chrono>
#include <csignal>
#include <fstream>
#include <iostream>
#include <thread>

#include "command_line.h"
#include "exchange/atomic_file.h"
#include "exchange/delimited.h"
#include "exchange/model_file.h"
#include "exchange/stock_files.h"
#include "exchange/sweep_file.h"
#include "exchange/table_file.h"
#include "json/limits.h"
#include "json/utf8.h"
#include "model/watched.h"
#include "read_model.h"

namespace conduit::cli {
namespace {

std::atomic<bool> interrupted = false;

// While it lives, Ctrl+C asks to stop and what is solved is kept.
class StopOnInterrupt {
 public:
  StopOnInterrupt() : before_(std::signal(SIGINT, [](int) { interrupted = true; })) {
    interrupted = false;
    watch_ = std::jthread([this](std::stop_token end) {
      while (!end.stop_requested() && !interrupted)
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
      if (interrupted) source_.request_stop();
    });
  }
  ~StopOnInterrupt() {
    watch_.request_stop();
    watch_.join();
    std::signal(SIGINT, before_);
  }
  [[nodiscard]] std::stop_token token() const { return source_.get_token(); }

 private:
  void (*before_)(int);
  std::stop_source source_;
  std::jthread watch_;
};

std::optional<std::string> readWholeFile(const std::string& file, std::ostream& err) {
  std::error_code error;
  if (!std::filesystem::is_regular_file(file, error)) {
    unusable(err, fmt::format("{}: {}", file,
                              std::filesystem::exists(file, error) ? "not a file" : "file not found"));
    return std::nullopt;
  }
  if (std::filesystem::file_size(file, error) > modelBytesMost) {
    err << plainUtf8(fmt::format("{}: the file is larger than {} MiB\n", file, modelBytesMost >> 20));
    return std::nullopt;
  }
  std::ifstream in(file, std::ios::binary);
  std::string text{std::istreambuf_iterator<char>(in), {}};
  if (!in) {
    err << plainUtf8(fmt::format("{}: cannot be read\n", file));
    return std::nullopt;
  }
  return text;
}

// To a file, whole or not at all; else to `out`.
bool deliver(const SweepRecord& record, bool json, const std::string& write, std::ostream& out,
             std::ostream& err) {
  if (!json && !write.empty()) {
    const auto done = writeTable(write, tableOf(record));
    if (!done) err << plainUtf8(done.error().what) << '\n';
    return done.has_value();
  }
  const std::string text = json ? writeSweep(record) : csvText(textsOf(tableOf(record)));
  if (write.empty()) {
    out << text;
    return ended(limitsKept, out, err) == limitsKept;
  }
  const auto done = writeWhole(write, text);
  if (!done) err << plainUtf8(done.error().what) << '\n';
  return done.has_value();
}

int statusOf(const SweepRecord& record) {
  bool fault = false, unsolved = record.points.size() < record.count && record.parts == 1;
  for (const auto& [i, p] : record.points) {
    fault = fault || p.end == SweepPoint::End::fault;
    unsolved = unsolved || p.end != SweepPoint::End::solved;
  }
  return fault ? internalFault : unsolved ? cannotBalance : limitsKept;
}

bool readPart(const std::string& text, std::size_t& part, std::size_t& parts) {
  const auto slash = text.find('/');
  const auto whole = [](const std::string& s) {
    return !s.empty() && s.size() < 7 && s.find_first_not_of("0123456789") == std::string::npos;
  };
  if (slash == std::string::npos || !whole(text.substr(0, slash)) || !whole(text.substr(slash + 1)))
    return false;
  part = std::stoul(text.substr(0, slash)), parts = std::stoul(text.substr(slash + 1));
  return part >= 1 && part <= parts;
}

}  // namespace

CLI::App* SweepCommand::addTo(CLI::App& app) {
  CLI::App* sweep = app.add_subcommand(
      "sweep", "Solve a case over a range of one or two given values, or for the rows of a table.");
  sweep->add_option("FILE", file, "a model file (.lconduit)")->required();
  auto* varied = sweep->add_option("--vary", vary, "value to vary: \"B-1 speed\", \"job temperature\"");
  sweep
      ->add_option("--over", over,
                   "its values: \"2600 rpm to 2980 rpm in 20\", \"2, 4, 8 bar\", \"sizes ASME B36.10M 40\"")
      ->needs(varied);
  sweep->add_option("--rows", rows, "CSV table: headings name given values, each row is a point")
      ->excludes(varied);
  sweep->add_option("--watch", watch, "result to record; default: the watched results of the model");
  sweep->add_option("--case", inCase, "case to use; default: the base case");
  sweep->add_option("--part", part, "K/N: solve part K of N only; writes JSON for gather");
  sweep->add_flag("--json", json, "JSON instead of CSV, SI values (docs/cli.md)");
  sweep->add_option("--write", write, "write to this file; .xlsx writes a spreadsheet");
  sweep->add_option("--units", units, "unit set of plain numbers and of the table: SI water, SI process, US");
  sweep->add_option("--threads", threads, "number of threads; default: number of processors")
      ->check(CLI::Range(0, 1024));
  return sweep;
}

int SweepCommand::run(std::ostream& out, std::ostream& err) const {
  auto model = modelFrom(file, err);
  if (!model) return unusableInput;
  const auto shown = unitsOf(*model, units, err);
  if (!shown) return unusableInput;
  const auto stock = stockFor(model->drawn, shippedStock());
  Sweep sweep;
  if (!inCase.empty()) {
    const Case* which = model->cases.byName(inCase);
    if (!which) return unusable(err, noSuchCase(*model, inCase));
    sweep.in = which->id;
  }
  if (!rows.empty()) {
    const auto text = readWholeFile(rows, err);
    if (!text) return unusableInput;
    const Grid grid = readGrid(*text, guessDialect(*text));
    if (grid.headings.empty())
      return unusable(err, fmt::format("{}: the first row must name the given values", rows));
    if (grid.tooMuch) return unusable(err, fmt::format("{}: the table is too long or too wide", rows));
    auto columns = readColumns(grid.headings, grid.rows, model->drawn, *shown);
    if (!columns) return unusable(err, fmt::format("{}: {}", rows, columns.error().what));
    sweep.columns = std::move(*columns), sweep.rows = true;
  } else {
    if (vary.empty())
      return unusable(
          err,
          "nothing to vary: use --vary \"B-1 speed\" --over \"2600 rpm to 2980 rpm in 20\", or --rows TABLE");
    if (vary.size() != over.size()) return unusable(err, "each --vary needs its --over");
    if (vary.size() > 2) return unusable(err, "at most two values can be varied; for more use --rows TABLE");
    for (std::size_t i = 0; i < vary.size(); ++i) {
      auto one = readVary(vary[i], over[i], model->drawn, *stock, *shown);
      if (!one) return unusable(err, one.error().what);
      sweep.columns.push_back(std::move(*one));
    }
    if (const auto twice = variedTwice(sweep.columns); !twice.empty()) return unusable(err, twice);
  }
  for (const std::string& words : watch) {
    auto one = readWatched(words, model->drawn, *shown);
    if (!one) return unusable(err, one.error().what);
    sweep.watched.push_back(std::move(*one));
  }
  if (watch.empty()) sweep.watched = model->of<WatchedResults>().all;
  if (sweep.watched.empty()) return unusable(err, "no result to record: use --watch \"P-1 NPSH margin\"");
  if (sweep.points() > pointsMost)
    return unusable(err, fmt::format("maximum {} points", counted(pointsMost)));
  SweepOptions options;
  options.units = *shown;
  if (!part.empty() && !readPart(part, options.part, options.parts))
    return unusable(err, fmt::format("\"{}\" is not a part such as 3/16", part));
  const StopOnInterrupt interrupt;
  options.jobs.stop = interrupt.token();
  options.jobs.threads = static_cast<std::size_t>(threads);
  if (&err == &std::cerr && ::isatty(STDERR_FILENO)) {
    options.jobs.progress = [&, begun = std::chrono::steady_clock::now(), last = -1.0](
                                std::size_t done, std::size_t of) mutable {
      const double s = std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
      if (s - last < 0.2 && done < of) return;
      last = s;
      err << fmt::format("\r{} of {} points, {:.0f} s", counted(done), counted(of), s)
          << (done == of ? "\n" : "") << std::flush;
    };
  }
  const SweepResult result = runSweep(*model, sweep, stock, options);
  const SweepRecord record = recordOf(*model, sweep, result, options);
  if (interrupted)
    err << fmt::format("\nstopped: {} points solved and saved; the rest are missing\n",
                       counted(result.solved));
  if (!deliver(record, json || !part.empty(), write, out, err)) return unusableInput;
  return interrupted ? cannotBalance : statusOf(record);
}

CLI::App* GatherCommand::addTo(CLI::App& app) {
  CLI::App* gather = app.add_subcommand("gather", "Merge the parts of one sweep.");
  gather->add_option("PART", files, "files written by sweep --part")->required();
  gather->add_flag("--json", json, "JSON instead of CSV, SI values (docs/cli.md)");
  gather->add_option("--write", write, "write to this file; .xlsx writes a spreadsheet");
  return gather;
}

int GatherCommand::run(std::ostream& out, std::ostream& err) const {
  std::vector<SweepRecord> parts;
  bool failed = false;
  for (const std::string& name : files) {
    const auto text = readWholeFile(name, err);
    auto part = text ? readSweep(*text) : Result<SweepRecord>(tl::unexpected(Problem{}));
    if (text && !part) err << plainUtf8(fmt::format("{}: {}\n", name, part.error().what));
    if (part) parts.push_back(std::move(*part));
    else failed = true;
  }
  // One that is broken is named, and nothing is said of the whole.
  if (failed) return unusableInput;
  const std::size_t of = parts.front().parts;
  const auto all = conduit::gather(parts);
  if (!all) return unusable(err, all.error().what);
  const auto again = unfinished(*all, of);
  for (const std::size_t k : again)
    err << fmt::format("part {}/{} is missing or incomplete: run it again with --part {}/{}\n", k, of, k, of);
  if (!deliver(*all, json, write, out, err)) return unusableInput;
  return again.empty() ? statusOf(*all) : internalFault;
}

}  // namespace conduit::cli
