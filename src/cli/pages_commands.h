// Commands that print a page of documentation, made from the tables the program itself uses.
#pragma once

#include "command.h"

namespace conduit::cli {

class SchemaCommand final : public Command {
 public:
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;
};

class FieldsCommand final : public Command {
 public:
  CLI::App* addTo(CLI::App& app) override;
  [[nodiscard]] int run(std::ostream& out, std::ostream& err) const override;
};

}  // namespace conduit::cli
