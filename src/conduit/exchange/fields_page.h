// The page of every kind with its fields, as Markdown, made from the tables of the parts.
#pragma once

#include <string>

namespace conduit {

[[nodiscard]] std::string fieldsPage();

}  // namespace conduit
