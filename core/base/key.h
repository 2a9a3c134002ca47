// Content keys: 128 bits, so that two states that strangers' documents may hold are never taken for one another.
// Source: XXH3 (Collet), by Debian's libxxhash.
#pragma once
#include <xxhash.h>

#include <bit>
#include <compare>
#include <cstdint>
#include <string>
#include <string_view>

namespace loom {

struct Key {
  std::uint64_t low = 0, high = 0;
  friend auto operator<=>(const Key&, const Key&) = default;
};

struct KeyHash {
  std::size_t operator()(const Key& key) const { return key.low; }
};

/// The key of bytes.
inline Key key_of(std::string_view bytes) {
  const XXH128_hash_t hash = XXH3_128bits(bytes.data(), bytes.size());
  return {hash.low64, hash.high64};
}

/// Puts a key together from parts. Texts carry their length: no two lists of parts have the same bytes.
class KeyMaker {
 public:
  KeyMaker& add(std::string_view text) {
    add(static_cast<std::uint64_t>(text.size()));
    bytes_.append(text);
    return *this;
  }
  KeyMaker& add(std::uint64_t number) {
    bytes_.append(reinterpret_cast<const char*>(&number), sizeof number);
    return *this;
  }
  KeyMaker& add(int number) { return add(static_cast<std::uint64_t>(static_cast<std::int64_t>(number))); }
  KeyMaker& add(double number) { return add(std::bit_cast<std::uint64_t>(number == 0 ? 0.0 : number)); }
  KeyMaker& add(const Key& key) { return add(key.low).add(key.high); }
  Key key() const { return key_of(bytes_); }

 private:
  std::string bytes_;
};

}  // namespace loom
