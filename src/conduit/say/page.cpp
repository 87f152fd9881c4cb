#include "say/page.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "quantity/format.h"
#include "say/ensure.h"

namespace conduit {
namespace {

template <class... Ts>
struct Overloaded : Ts... {
  using Ts::operator()...;
};

std::string escaped(std::string_view text) {
  std::string out;
  for (const char c : text) switch (c) {
      case '&': out += "&amp;"; break;
      case '<': out += "&lt;"; break;
      case '>': out += "&gt;"; break;
      case '"': out += "&quot;"; break;
      default: out += c;
    }
  return out;
}

std::string result(const WorkingLine& line) { return digits(line.value, 6, 1e-15); }

// Which columns hold words and stand at the left: the first, and those in which some cell begins with a
// letter.
std::vector<bool> wordColumns(const Page::Table& t) {
  std::vector<bool> words(t.columns.size(), false);
  for (std::size_t c = 0; c < words.size(); ++c)
    words[c] = c == 0 || std::any_of(t.rows.begin(), t.rows.end(), [&](const auto& cells) {
                 return c < cells.size() && !cells[c].empty() &&
                        std::isalpha(static_cast<unsigned char>(cells[c].front()));
               });
  return words;
}

}  // namespace

std::size_t columnsOf(std::string_view text) {
  return static_cast<std::size_t>(  // bytes that begin a character
      std::count_if(text.begin(), text.end(),
                    [](char c) { return (static_cast<unsigned char>(c) & 0xC0) != 0x80; }));
}

Page pageOf(const Working& working) {
  Page page;
  page.blocks.push_back(Page::Heading{working.title});
  for (const WorkingLine& line : working.lines) page.blocks.push_back(Page::Formula{line});
  if (!working.remark.empty()) page.blocks.push_back(Page::Sentence{working.remark});
  return page;
}

std::string html(const Page& page, const PageLook& look) {
  std::string out;
  const auto put =
      Overloaded{[&](const Page::Heading& h) {
                   out += fmt::format("<p style='font-size:{}px;font-weight:600'>{}</p>",
                                      h.level == 1   ? 15
                                      : h.level == 2 ? 13
                                                     : 12,
                                      escaped(h.words));
                 },
                 [&](const Page::Sentence& s) {
                   out += s.quiet ? fmt::format("<p style='margin-top:12px;color:{}'>{}</p>", look.quietInk,
                                                escaped(s.words))
                                  : fmt::format("<p style='margin-top:12px'>{}</p>", escaped(s.words));
                 },
                 [&](const Page::Formula& f) {
                   const WorkingLine& l = f.line;
                   out += fmt::format("<p style='margin-top:10px;margin-bottom:0'><b>{}</b> = {}</p>",
                                      escaped(l.symbol), escaped(l.formula));
                   out += fmt::format("<p style='margin:2px 0 0 10px;color:{}'>= {}</p>", look.quietInk,
                                      escaped(l.numbers));
                   out += fmt::format("<p style='margin:2px 0 0 10px'>= <b>{}</b> {}</p>", escaped(result(l)),
                                      escaped(l.unit));
                   if (!l.source.empty())
                     out += fmt::format("<p style='margin:1px 0 0 10px;color:{};font-size:11px'>{}</p>",
                                        look.quietInk, escaped(l.source));
                 },
                 [&](const Page::Table& t) {
                   if (!t.title.empty())
                     out += fmt::format("<p style='margin-top:12px'><b>{}</b></p>", escaped(t.title));
                   out += "<table cellspacing='0' cellpadding='3'>";
                   const std::vector<bool> words = wordColumns(t);
                   const auto row = [&](const std::vector<std::string>& cells, const char* tag) {
                     ensure(cells.size() == t.columns.size(), "a row of a table has too few cells");
                     out += "<tr>";
                     for (std::size_t c = 0; c < cells.size(); ++c)
                       out += fmt::format("<{0} align='{1}'>{2}</{0}>", tag, words[c] ? "left" : "right",
                                          escaped(cells[c]));
                     out += "</tr>";
                   };
                   row(t.columns, "th");
                   for (const auto& cells : t.rows) row(cells, "td");
                   out += "</table>";
                 },
                 [&](const Page::Figure& f) {
                   out += fmt::format("<p><img src='{}'></p><p style='color:{};font-size:11px'>{}</p>",
                                      escaped(f.name), look.quietInk, escaped(f.caption));
                 }};
  for (const Page::Block& block : page.blocks) std::visit(put, block);
  return out;
}

std::string plainText(const Page& page) {
  std::string out;
  const auto put = Overloaded{
      [&](const Page::Heading& h) { out += fmt::format("\n{}\n", h.words); },
      [&](const Page::Sentence& s) { out += fmt::format("  {}\n", s.words); },
      [&](const Page::Formula& f) {
        const WorkingLine& l = f.line;
        out += fmt::format("  {} = {}\n", l.symbol, l.formula);
        const std::string under(columnsOf(l.symbol) + 2, ' ');
        out += fmt::format("{} = {}\n", under, l.numbers);
        out += fmt::format("{} = {}{}{}{}\n", under, result(l), l.unit.empty() ? "" : " ", l.unit,
                           l.source.empty() ? "" : fmt::format("   ({})", l.source));
      },
      [&](const Page::Table& t) {
        std::vector<std::size_t> widths;
        for (const std::string& c : t.columns) widths.push_back(columnsOf(c));
        for (const auto& cells : t.rows) {
          ensure(cells.size() == t.columns.size(), "a row of a table has too few cells");
          for (std::size_t c = 0; c < cells.size(); ++c) widths[c] = std::max(widths[c], columnsOf(cells[c]));
        }
        const std::vector<bool> words = wordColumns(t);
        const auto row = [&](const std::vector<std::string>& cells) {
          std::string line = " ";
          for (std::size_t c = 0; c < cells.size(); ++c) {
            const std::string space(widths[c] - columnsOf(cells[c]), ' ');
            line += words[c] ? " " + cells[c] + space : " " + space + cells[c];
          }
          while (line.back() == ' ') line.pop_back();
          out += line + '\n';
        };
        out += fmt::format("\n{}\n", t.title);
        row(t.columns);
        for (const auto& cells : t.rows) row(cells);
      },
      [&](const Page::Figure& f) { out += fmt::format("  [figure: {}] {}\n", f.name, f.caption); }};
  for (const Page::Block& block : page.blocks) std::visit(put, block);
  return out;
}

}  // namespace conduit
