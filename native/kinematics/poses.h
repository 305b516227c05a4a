// Where bodies are, how fast points on them move, and where the mass is (Lynch and Park, Modern
// Robotics, 2017, chapters 4 and 5).
#pragma once

#include "tree/joints.h"

namespace mooring::kinematics {

using tree::Body;
using tree::Kind;
using tree::Tree;

// World poses of all bodies.
void world_poses(const Tree& tree, const double* q, Pose* poses);

// The geometric Jacobian (6, m) of a point in the world, fixed to a body: angular rows first.
void point_jacobian(const Tree& tree, const Pose* poses, Index body, Vec3 point, Grid<double> out);

// As 4 x 4 matrices (b, bodies, 4, 4).
void batch_poses(const Tree& tree, Grid<const double> q, double* matrices);
// Jacobians (b, 6, m) of a point given in a body's frame.
void batch_jacobian(const Tree& tree, Grid<const double> q, Index body, Vec3 point,
                    double* jacobians);
// Their rates of change while the freedoms move at v (b, m).
void batch_jacobian_rate(const Tree& tree, Grid<const double> q, Grid<const double> v, Index body,
                         Vec3 point, double* rates);
// Centres of mass (b, 3), and their Jacobians (b, 3, m).
void batch_mass_centre(const Tree& tree, Grid<const double> q, Triples<double> centres,
                       double* jacobians);

}  // namespace mooring::kinematics
