// What a material says of itself once it is packed as a bolt.
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"

namespace loom {

struct Imprint {
  std::string id;  ///< the same through all versions; empty: made of the material's name when it is packed
  std::string version = "1.0";
  std::vector<std::string> tags;  ///< words that it is found by
  std::string licence;            ///< an SPDX licence expression; empty: none is given
  friend bool operator==(const Imprint&, const Imprint&) = default;
};

/// An identifier of a material's name: small letters, digits and _.
std::string id_of_name(std::string_view name);

/// Two to four whole numbers with points between them, such as 1.3 or 2.0.1; each at most 999999.
bool is_version(std::string_view text);
/// Below 0: a is older than b; 0: the same; missing numbers count as 0. Both are versions.
int compare_versions(std::string_view a, std::string_view b);
/// With the last number one higher.
std::string next_version(std::string_view version);

/// Whether it has the form of a licence expression.
/// Source   SPDX specification 2.3, annex D: identifiers with an optional "+", LicenseRef-..., WITH, AND, OR, brackets.
/// The list of licences itself grows and is not looked at.
bool is_licence(std::string_view text);

/// What is wrong with it, if anything; `where` names the key.
std::optional<Error> imprint_fault(const Imprint& imprint);

}  // namespace loom
