// Judging a material by what it gives: is it plausible, does it close, what catches the eye.
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/graph/material.h"
#include "core/graph/node_type.h"
#include "core/weave/weaver.h"

namespace loom {

enum class Verdict { pass, warn, fail };
std::string_view verdict_name(Verdict verdict);

/// Shares of the tile.
struct Place {
  double u = 0, v = 0;
  friend bool operator==(const Place&, const Place&) = default;
};

/// What one check says of a material.
struct Finding {
  std::string check;
  Verdict verdict = Verdict::pass;
  std::string slot;              ///< where it is worst; empty: it is no slot's
  double figure = 0, limit = 0;  ///< the limit that counts: the one that is broken, or else the first
  bool reach = false;            ///< the figure has to reach its limit; else to stay within
  std::string told;              ///< both in words
  std::vector<Place> places{};   ///< where to look, the worst first
  double radius = 0;             ///< of what to look at there, in shares of the tile; 0: not said
};

/// What is judged: all slots that are maps, at the size asked for and at a smaller one.
struct Judged {
  const Material& material;
  const Catalogue& catalogue;
  std::map<std::string, Field> slots, small;
  const Field* slot(const std::string& id) const {
    const auto it = slots.find(id);
    return it == slots.end() ? nullptr : &it->second;
  }
};

/// A pure function from what is judged to a finding; nothing where it has nothing to judge.
struct Check {
  std::string_view id, label;
  std::string_view why;  ///< why it matters, in a sentence or two
  std::optional<Finding> (*judge)(const Judged& judged, const Stop& stop);
};
/// All of them, in the order in which they are told.
const std::vector<Check>& checks();
const Check* check_of(std::string_view id);

struct ProofOptions {
  std::vector<std::string> checks{};  ///< identifiers; empty: all
  int size = 1024;                    ///< 128 and more, a power of two
};

/// Error   the material's first fault, no such check (with those that there are), cancelled.
Result<std::vector<Finding>> prove(const Material& material, const Catalogue& catalogue, Weaver& weaver,
                                   const ProofOptions& options, const Stop& stop);
/// The same over maps that are there already.
std::vector<Finding> judge(const Judged& judged, const std::vector<std::string>& checks, const Stop& stop);

}  // namespace loom
