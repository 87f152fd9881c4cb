// What is read from top to bottom: a working, a table of results, a data sheet, a calculation sheet. A tree
// of plain data, rendered in one place for each way of showing it.
//
//   Page page = pageOf(working);
//   const std::string forTheCard = html(page, {.quietInk = "#55606a"}), forATerminal = plainText(page);
#pragma once

#include <string>
#include <variant>
#include <vector>

#include "say/say.h"

namespace conduit {

struct Page {
  struct Heading {
    std::string words;
    int level = 1;  // 1 to 3
  };
  struct Sentence {
    std::string words;
    bool quiet = false;  // beside the matter: sources, remarks
  };
  /// A formula, the same with its numbers, and what comes out.
  struct Formula {
    WorkingLine line;
  };
  /// Cells as they are read; the first column stands at the left, the others at the right. Each row has as
  /// many cells as there are columns.
  struct Table {
    std::string title;
    std::vector<std::string> columns;
    std::vector<std::vector<std::string>> rows;
  };
  /// Drawn by who renders the page, who knows it by its name: "system curve of P-1".
  struct Figure {
    std::string name, caption;
  };
  using Block = std::variant<Heading, Sentence, Formula, Table, Figure>;
  std::vector<Block> blocks;
};

/// A working as a page.
[[nodiscard]] Page pageOf(const Working& working);

struct PageLook {
  std::string quietInk = "#555";  // of what is beside the matter, as CSS has it
};
/// HTML of the blocks alone, without a frame, for rich text and for a document of one's own. Figures become
/// images whose source is their name. All words are escaped.
[[nodiscard]] std::string html(const Page& page, const PageLook& look);
/// For a terminal, in columns; figures are named.
[[nodiscard]] std::string plainText(const Page& page);

/// Columns of a terminal that a text in UTF-8 takes: its characters.
[[nodiscard]] std::size_t columnsOf(std::string_view text);

}  // namespace conduit
