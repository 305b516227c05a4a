#include "simulation/saving.h"

#include <cstring>
#include <stdexcept>
#include <type_traits>

namespace mooring::simulation {

namespace {

// Changes with what a state holds, and how.
constexpr std::uint64_t kVersion = 8;

class Writer {
  public:
    template <typename T>
    void operator()(const T& value) {
        static_assert(std::is_trivially_copyable_v<T>);
        bytes_.append(reinterpret_cast<const char*>(&value), sizeof(T));
    }
    template <typename T>
    void operator()(const std::vector<T>& values) {
        static_assert(std::is_trivially_copyable_v<T>);
        (*this)(static_cast<std::uint64_t>(values.size()));
        bytes_.append(reinterpret_cast<const char*>(values.data()), values.size() * sizeof(T));
    }
    std::string bytes_;
};

class Reader {
  public:
    explicit Reader(const std::string& bytes) : bytes_(bytes) {}

    template <typename T>
    void operator()(T& value) {
        take(&value, sizeof(T));
    }
    template <typename T>
    void operator()(std::vector<T>& values) {
        std::uint64_t count = 0;
        (*this)(count);
        if (count > (bytes_.size() - at_) / sizeof(T)) {
            throw std::invalid_argument("the saved state is damaged");
        }
        values.resize(count);
        take(values.data(), count * sizeof(T));
    }
    bool at_end() const { return at_ == bytes_.size(); }

  private:
    void take(void* out, std::size_t size) {
        if (size > bytes_.size() - at_) {
            throw std::invalid_argument("the saved state is damaged");
        }
        if (size > 0) {
            std::memcpy(out, bytes_.data() + at_, size);
        }
        at_ += size;
    }

    const std::string& bytes_;
    std::size_t at_ = 0;
};

// All of a state but where shapes are put in the hierarchy.
template <typename Archive, typename AnyState>
void go_over(Archive& archive, AnyState& s) {
    archive(s.steps);
    for (auto* row : {&s.q,
                      &s.v,
                      &s.a,
                      &s.integral,
                      &s.effort,
                      &s.seen,
                      &s.acting,
                      &s.rotor,
                      &s.rotor_speed,
                      &s.pulls,
                      &s.commands.belt,
                      &s.friction,
                      &s.stops,
                      &s.still,
                      &s.contact.path,
                      &s.commands.position,
                      &s.commands.velocity,
                      &s.commands.effort,
                      &s.commands.push,
                      &s.watch.tripped,
                      &s.watch.saturated,
                      &s.watch.stop,
                      &s.watch.slip,
                      &s.watch.resonance}) {
        archive(*row);
    }
    archive(s.saturated);
    archive(s.awake);
    archive(s.commands.held);
    archive(s.commands.relaxed);
    archive(s.work);
    archive(s.bonds);
    archive(s.contact.pairs);
    archive(s.contact.contacts);
    archive(s.watch.overlaps);
    archive(s.watch.gap);
    archive(s.watch.sweeps);
    archive(s.watch.fastest);
}

}  // namespace

std::string packed(const State& state) {
    Writer writer;
    writer(kVersion);
    writer(sizeof(contact::Contact));
    go_over(writer, state);
    std::vector<Index> leaves;
    std::vector<contact::Bounds> bounds;
    for (Index leaf = 0; leaf < static_cast<Index>(state.contact.path.size()); ++leaf) {
        if (state.contact.volumes.has(leaf)) {
            leaves.push_back(leaf);
            bounds.push_back(state.contact.volumes.bounds(leaf));
        }
    }
    writer(leaves);
    writer(bounds);
    return std::move(writer.bytes_);
}

State unpacked(const std::string& bytes) {
    Reader reader(bytes);
    std::uint64_t version = 0;
    std::size_t size = 0;
    reader(version);
    reader(size);
    if (version != kVersion || size != sizeof(contact::Contact)) {
        throw std::invalid_argument("the saved state is of another version");
    }
    State state;
    go_over(reader, state);
    std::vector<Index> leaves;
    std::vector<contact::Bounds> bounds;
    reader(leaves);
    reader(bounds);
    const auto shapes = static_cast<Index>(state.contact.path.size());
    if (!reader.at_end() || leaves.size() != bounds.size()) {
        throw std::invalid_argument("the saved state is damaged");
    }
    state.contact.volumes = contact::Volumes(shapes);
    for (std::size_t k = 0; k < leaves.size(); ++k) {
        if (leaves[k] < 0 || leaves[k] >= shapes || state.contact.volumes.has(leaves[k])) {
            throw std::invalid_argument("the saved state is damaged");
        }
        state.contact.volumes.put(leaves[k], bounds[k]);
    }
    return state;
}

}  // namespace mooring::simulation
