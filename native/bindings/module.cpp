// The extension module `mooring._native`: a submodule for each room that has compiled code.
#include <nanobind/nanobind.h>

namespace mooring::bindings {

void bind_cad(nanobind::module_& module);
void bind_drawing(nanobind::module_& module);
void bind_dynamics(nanobind::module_& module);
void bind_kinematics(nanobind::module_& module);
void bind_simulation(nanobind::module_& module);
void bind_tree(nanobind::module_& module);

}  // namespace mooring::bindings

NB_MODULE(_native, module) {
    module.doc() = "The compiled core of Mooring.";
    // What a thread still holds when the interpreter ends is no error of anybody's.
    nanobind::set_leak_warnings(false);
    auto cad = module.def_submodule("cad", "Searches among triangles.");
    mooring::bindings::bind_cad(cad);
    auto drawing = module.def_submodule("drawing", "The renderer.");
    mooring::bindings::bind_drawing(drawing);
    auto tree = module.def_submodule("tree", "The kinematic tree.");
    mooring::bindings::bind_tree(tree);
    auto kinematics = module.def_submodule("kinematics", "Poses, loops, overlaps.");
    mooring::bindings::bind_kinematics(kinematics);
    auto dynamics = module.def_submodule("dynamics", "Mass and motion.");
    mooring::bindings::bind_dynamics(dynamics);
    auto simulation = module.def_submodule("simulation", "Scenes that are stepped.");
    mooring::bindings::bind_simulation(simulation);
}
