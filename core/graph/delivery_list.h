// What is delivered, file by file, as the material keeps it.
#pragma once
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/base/error.h"

namespace loom {

/// One file of a delivery: each of its channels is a channel of a slot, turned about or not, or a constant.
struct ListedFile {
  std::string pattern = "{material}_{slot}_{size}";  ///< also {list}, {preset}; {slot}: the name of this file
  std::string name;                                  ///< what {slot} stands for; empty: the one slot that it holds
  std::string format = "png";                        ///< png, exr or tiff
  int bits = 8;                                      ///< 8, 16 or 32, as the format holds them
  /// By r, g, b, a: "SLOT", "SLOT.r" (.g, .b, .a), "1 - SLOT.r" or a number. A slot of several channels alone under "r"
  /// takes as many as it has.
  std::map<std::string, std::string> channels;
  std::optional<bool> dither{};  ///< to 8 bits; not said: where the slot is smooth
  friend bool operator==(const ListedFile&, const ListedFile&) = default;
};

struct DeliveryList {
  std::string name;
  std::vector<int> sizes{2048};
  bool green_up = true;
  std::vector<ListedFile> files;
  friend bool operator==(const DeliveryList&, const DeliveryList&) = default;
};

/// Where a channel of a file comes from.
struct ChannelSource {
  std::string slot;       ///< empty: a constant
  int strand = -1;        ///< of the slot; -1: not said, its first, or all where it stands alone
  bool inverted = false;  ///< 1 - what the slot holds
  double constant = 0;
  friend bool operator==(const ChannelSource&, const ChannelSource&) = default;
};
/// Error: what is wrong with the text, without where.
Result<ChannelSource> channel_source(std::string_view text);
std::string channel_text(const ChannelSource& source);

/// Whether a file that fills these channels, each one letter, has one, three or four, in their order.
bool fills_in_order(std::string_view channels);

constexpr int kMostLists = 64, kMostListedFiles = 64, kMostListedSizes = 16;

/// What is wrong with the lists by themselves: names, sizes, formats and their bits, channels.
std::vector<Error> list_faults(const std::vector<DeliveryList>& lists);

}  // namespace loom
