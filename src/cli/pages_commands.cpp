#include "pages_commands.h"

#include <CLI/CLI.hpp>

#include "command_line.h"
#include "exchange/fields_page.h"
#include "exchange/model_file.h"
#include "read_model.h"

namespace conduit::cli {

CLI::App* SchemaCommand::addTo(CLI::App& app) {
  return app.add_subcommand("schema", "Print the JSON Schema of the model file.");
}

int SchemaCommand::run(std::ostream& out, std::ostream& err) const {
  out << modelSchema();
  return ended(limitsKept, out, err);
}

CLI::App* FieldsCommand::addTo(CLI::App& app) {
  return app.add_subcommand("fields", "Print all kinds with their fields, ranges and defaults, as Markdown.");
}

int FieldsCommand::run(std::ostream& out, std::ostream& err) const {
  out << fieldsPage();
  return ended(limitsKept, out, err);
}

}  // namespace conduit::cli
