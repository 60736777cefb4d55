#include "standin/dome/engine.hpp"

#include <dlfcn.h>

#include <algorithm>
#include <chrono>
#include <set>

#include "dome.h"
#include "standin/dome/assets.hpp"

/// One module's side of the engine: what its hooks are handed.
struct dome_engine {
    std::map<std::string, void*>* offered = nullptr;  // of all modules
    std::vector<std::string> own;                     // names that this module offered
    dome::Loaded loaded;
};

namespace dome {
namespace {

namespace fs = std::filesystem;

/// A library that is open as long as this lives.
class Library {
  public:
    explicit Library(const fs::path& file) : handle_(::dlopen(file.c_str(), RTLD_NOW | RTLD_LOCAL)) {
        if (handle_ == nullptr) why_ = ::dlerror();
    }
    Library(const Library&) = delete;
    Library& operator=(const Library&) = delete;
    ~Library() {
        if (handle_ != nullptr) ::dlclose(handle_);
    }
    [[nodiscard]] const std::string& why_not() const { return why_; }
    [[nodiscard]] void* symbol(const std::string& name) const { return ::dlsym(handle_, name.c_str()); }

  private:
    void* handle_ = nullptr;
    std::string why_;
};

// A module is C: nothing may be thrown through it.

void say(dome_engine* engine, const char* text) {
    if (text != nullptr) engine->loaded.said.emplace_back(text);
}

int offer(dome_engine* engine, const char* name, void* thing) {
    if (name == nullptr || !engine->offered->emplace(name, thing).second) return 1;
    engine->own.emplace_back(name);
    return 0;
}

void* find(dome_engine* engine, const char* name) {
    const auto found = name == nullptr ? engine->offered->end() : engine->offered->find(name);
    return found == engine->offered->end() ? nullptr : found->second;
}

size_t asset_count(dome_engine* engine) { return engine->loaded.assets.size(); }

const char* asset(dome_engine* engine, size_t index) {
    return index < engine->loaded.assets.size() ? engine->loaded.assets[index].c_str() : nullptr;
}

/// A started module with everything that must stay until it is stopped.
struct Running {
    std::unique_ptr<Library> library;
    std::unique_ptr<dome_engine> engine;
    std::unique_ptr<dome_host> host;
    std::string folder;
    dome_stop stop = nullptr;
};

class Rounds {
  public:
    Rounds(const Plan& plan, const std::vector<fs::path>& path) : plan_(plan), path_(path) {}

    Round run() {
        for (const auto& phase : plan_.phases)
            for (const Planned& planned : plan_.modules)
                if (planned.phase == phase) start(planned);
        for (const Running& running : running_) round_.loaded.push_back(running.engine->loaded);
        while (!running_.empty()) stop();
        return std::move(round_);
    }

  private:
    void tell(const std::string& module, std::string what) { round_.problems.push_back({module, std::move(what)}); }

    /// The folder that holds the version named; empty when no entry of the path has it.
    [[nodiscard]] fs::path folder_of(const Planned& planned) const {
        for (const fs::path& entry : path_) {
            const fs::path folder = entry / planned.module / planned.version;
            std::error_code error;
            if (fs::is_regular_file(folder / (planned.module + ".dome.xml"), error)) return folder;
        }
        return {};
    }

    /// Versions that are there of the module, for the hint.
    [[nodiscard]] std::string versions_there(const std::string& module) const {
        std::set<std::string> versions;
        for (const fs::path& entry : path_) {
            std::error_code error;
            for (fs::directory_iterator it(entry / module, error), end; !error && it != end; it.increment(error))
                versions.insert(it->path().filename().string());
        }
        std::string out;
        for (const auto& version : versions) out += (out.empty() ? "" : ", ") + version;
        return out;
    }

    void start(const Planned& planned) {
        const auto begin = std::chrono::steady_clock::now();
        for (const auto& need : planned.needs)
            if (started_.count(need) == 0)
                return tell(planned.module, "needs `" + need + "`, which was not started before it");
        const fs::path folder = folder_of(planned);
        if (folder.empty()) {
            const std::string there = versions_there(planned.module);
            return tell(planned.module, "version " + planned.version + " is on no entry of the path" +
                                            (there.empty() ? "" : "; there is " + there));
        }
        const std::size_t before = round_.problems.size();
        const Descriptor descriptor =
            read_descriptor(folder / (planned.module + ".dome.xml"), planned.module, round_.problems);
        if (round_.problems.size() > before) return;
        if (descriptor.module != planned.module || descriptor.version != planned.version)
            return tell(planned.module, "its descriptor speaks of " + descriptor.module + " " + descriptor.version);
        Running running;
        running.folder = folder.string();
        running.library = std::make_unique<Library>(folder / descriptor.library);
        if (!running.library->why_not().empty()) return tell(planned.module, running.library->why_not());
        const auto* abi = static_cast<const int*>(running.library->symbol(planned.module + "_abi"));
        if (abi == nullptr)
            return tell(planned.module, "`" + descriptor.library + "` has no entry `" + planned.module + "_abi`");
        if (*abi != DOME_ABI)
            return tell(planned.module,
                        "is built for interface " + std::to_string(*abi) + ", this is " + std::to_string(DOME_ABI));
        dome_start start_hook = nullptr;
        for (const auto& [name, is_start] : {std::pair(descriptor.start, true), std::pair(descriptor.stop, false)}) {
            if (name.empty()) continue;
            void* symbol = running.library->symbol(name);
            if (symbol == nullptr)
                return tell(planned.module, "`" + descriptor.library + "` has no hook `" + name + "`");
            // POSIX says that a symbol of a function may be taken so.
            if (is_start) start_hook = reinterpret_cast<dome_start>(symbol);
            if (!is_start) running.stop = reinterpret_cast<dome_stop>(symbol);
        }
        running.engine = std::make_unique<dome_engine>();
        running.engine->offered = &offered_;
        Loaded& loaded = running.engine->loaded;
        loaded = {planned.module,
                  planned.version,
                  planned.phase,
                  folder,
                  folder / (planned.module + ".dome.xml"),
                  folder / descriptor.library,
                  {},
                  {},
                  0};
        loaded.assets = scan_assets(folder, descriptor, round_.problems);
        running.host = std::make_unique<dome_host>(dome_host{DOME_ABI, plan_.target.c_str(), planned.phase.c_str(),
                                                             running.folder.c_str(), running.engine.get(), say, offer,
                                                             find, asset_count, asset});
        if (const int refused = start_hook == nullptr ? 0 : start_hook(running.host.get()); refused != 0) {
            withdraw(*running.engine);
            return tell(planned.module, "its start hook gave " + std::to_string(refused));
        }
        loaded.milliseconds =
            std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
        started_.insert(planned.module);
        running_.push_back(std::move(running));
    }

    void withdraw(const dome_engine& engine) {
        for (const auto& name : engine.own) offered_.erase(name);
    }

    void stop() {
        Running running = std::move(running_.back());
        running_.pop_back();
        if (running.stop != nullptr) running.stop();
        withdraw(*running.engine);
        round_.stopped.push_back(running.engine->loaded.module);
    }

    const Plan& plan_;
    const std::vector<fs::path>& path_;
    std::map<std::string, void*> offered_;
    std::set<std::string> started_;
    std::vector<Running> running_;
    Round round_;
};

}  // namespace

Plan plan_for(const std::string& module, const std::vector<fs::path>& path) {
    Plan plan{"", {"main"}, {}};
    for (const fs::path& entry : path) {
        std::error_code error;
        for (fs::directory_iterator it(entry / module, error), end; !error && it != end; it.increment(error))
            if (plan.modules.empty()) plan.modules.push_back({module, it->path().filename().string(), "main", {}});
    }
    if (plan.modules.empty()) plan.modules.push_back({module, "?", "main", {}});
    return plan;
}

Round run_round(const Plan& plan, const std::vector<fs::path>& path) { return Rounds(plan, path).run(); }

}  // namespace dome
