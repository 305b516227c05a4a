/* Forward dynamics of a tree of revolute joints by articulated bodies (Featherstone 2008, 7.3), in
   plain C with 6 x 6 spatial matrices as three 3 x 3 blocks: what the kernels are measured against.

   Reads from standard input: bodies, states, repetitions (int64); per body parent (int64); then
   doubles per body: rotation 9, translation 3, axis 3, mass, centre 3, inertia 9; then gravity 3,
   then q, v, tau (states x bodies - 1 each). Writes the accelerations to standard output and the
   best time of a repetition in seconds to standard error. */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

typedef struct {
    int64_t parent;
    double fixed[9], origin[3], axis[3], mass, centre[3], tensor[9];
    double r[9], t[3], w[3], u[3], c[6], A[9], B[9], C[9], n[3], f[3], U[6], D, g, e[3], l[3];
} Body;

static void cross(const double *a, const double *b, double *o) {
    double x = a[1] * b[2] - a[2] * b[1], y = a[2] * b[0] - a[0] * b[2];
    o[2] = a[0] * b[1] - a[1] * b[0]; o[0] = x; o[1] = y;
}
static void mul(const double *m, const double *a, double *o) {
    for (int i = 0; i < 3; i++) o[i] = m[3 * i] * a[0] + m[3 * i + 1] * a[1] + m[3 * i + 2] * a[2];
}
static void mulT(const double *m, const double *a, double *o) {
    for (int i = 0; i < 3; i++) o[i] = m[i] * a[0] + m[3 + i] * a[1] + m[6 + i] * a[2];
}
static void mm(const double *a, const double *b, double *o) {
    for (int i = 0; i < 3; i++)
        for (int j = 0; j < 3; j++)
            o[3 * i + j] = a[3 * i] * b[j] + a[3 * i + 1] * b[3 + j] + a[3 * i + 2] * b[6 + j];
}
static void mmT(const double *a, const double *b, double *o) {
    for (int i = 0; i < 3; i++)
        for (int j = 0; j < 3; j++)
            o[3 * i + j] = a[3 * i] * b[3 * j] + a[3 * i + 1] * b[3 * j + 1] + a[3 * i + 2] * b[3 * j + 2];
}

static void forward(Body *b, int64_t n, const double *q, const double *v, const double *tau,
                    const double *gravity, double *a) {
    for (int64_t i = 0; i < n; i++) {
        Body *k = &b[i];
        memcpy(k->t, k->origin, sizeof k->t);
        double s[3] = {0, 0, 0}, x[3];
        if (i == 0) {
            memcpy(k->r, k->fixed, sizeof k->r);
            memset(k->w, 0, sizeof k->w); memset(k->u, 0, sizeof k->u);
        } else {
            double co = cos(q[i - 1]), si = sin(q[i - 1]), d = 1 - co, *e = k->axis;
            double m[9] = {co + d * e[0] * e[0], d * e[0] * e[1] - si * e[2], d * e[0] * e[2] + si * e[1],
                           d * e[0] * e[1] + si * e[2], co + d * e[1] * e[1], d * e[1] * e[2] - si * e[0],
                           d * e[0] * e[2] - si * e[1], d * e[1] * e[2] + si * e[0], co + d * e[2] * e[2]};
            mm(k->fixed, m, k->r);
            Body *p = &b[k->parent];
            cross(p->w, k->t, x);
            for (int j = 0; j < 3; j++) x[j] += p->u[j];
            mulT(k->r, p->w, k->w); mulT(k->r, x, k->u);
            for (int j = 0; j < 3; j++) { s[j] = e[j] * v[i - 1]; k->w[j] += s[j]; }
        }
        cross(k->w, s, k->c); cross(k->u, s, k->c + 3);
        double h[3], M = k->mass, *c = k->centre;
        for (int j = 0; j < 3; j++) h[j] = M * c[j];
        double cc = c[0] * h[0] + c[1] * h[1] + c[2] * h[2];
        for (int j = 0; j < 3; j++)
            for (int l = 0; l < 3; l++) {
                k->A[3 * j + l] = k->tensor[3 * j + l] - h[j] * c[l] + (j == l ? cc : 0);
                k->C[3 * j + l] = j == l ? M : 0;
            }
        double B[9] = {0, -h[2], h[1], h[2], 0, -h[0], -h[1], h[0], 0};
        memcpy(k->B, B, sizeof B);
        double J[3], P[3], y[3];
        mul(k->A, k->w, J); cross(h, k->u, x);
        cross(k->w, h, P);
        for (int j = 0; j < 3; j++) { J[j] += x[j]; P[j] += M * k->u[j]; }
        cross(k->w, J, k->n); cross(k->u, P, y); cross(k->w, P, k->f);
        for (int j = 0; j < 3; j++) k->n[j] += y[j];
    }
    for (int64_t i = n - 1; i > 0; i--) {
        Body *k = &b[i], *p = &b[k->parent];
        double *U = k->U, *e = k->axis, x[3], y[3];
        mul(k->A, e, U); mulT(k->B, e, U + 3);
        k->D = 1 / (e[0] * U[0] + e[1] * U[1] + e[2] * U[2]);
        k->g = tau[i - 1] - (e[0] * k->n[0] + e[1] * k->n[1] + e[2] * k->n[2]);
        for (int j = 0; j < 3; j++)
            for (int l = 0; l < 3; l++) {
                k->A[3 * j + l] -= U[j] * U[l] * k->D;
                k->B[3 * j + l] -= U[j] * U[3 + l] * k->D;
                k->C[3 * j + l] -= U[3 + j] * U[3 + l] * k->D;
            }
        for (int j = 0; j < 3; j++) { k->n[j] += U[j] * k->g * k->D; k->f[j] += U[3 + j] * k->g * k->D; }
        mul(k->A, k->c, x); mul(k->B, k->c + 3, y);
        for (int j = 0; j < 3; j++) k->n[j] += x[j] + y[j];
        mulT(k->B, k->c, x); mul(k->C, k->c + 3, y);
        for (int j = 0; j < 3; j++) k->f[j] += x[j] + y[j];
        double T[9], A[9], B[9], C[9], S[9], t[3];
        mm(k->r, k->A, T); mmT(T, k->r, A);
        mm(k->r, k->B, T); mmT(T, k->r, B);
        mm(k->r, k->C, T); mmT(T, k->r, C);
        for (int l = 0; l < 3; l++) {
            double col[3] = {C[l], C[3 + l], C[6 + l]};
            cross(k->t, col, t);
            for (int j = 0; j < 3; j++) S[3 * j + l] = B[3 * j + l] + t[j];
        }
        for (int j = 0; j < 3; j++) {
            cross(k->t, S + 3 * j, t);
            for (int l = 0; l < 3; l++) A[3 * j + l] += t[l];
        }
        for (int j = 0; j < 3; j++) {
            cross(k->t, B + 3 * j, t);
            for (int l = 0; l < 3; l++) A[3 * l + j] += t[l];
        }
        for (int j = 0; j < 9; j++) { p->A[j] += A[j]; p->B[j] += S[j]; p->C[j] += C[j]; }
        mul(k->r, k->f, x); mul(k->r, k->n, y); cross(k->t, x, t);
        for (int j = 0; j < 3; j++) { p->f[j] += x[j]; p->n[j] += y[j] + t[j]; }
    }
    double up[3] = {-gravity[0], -gravity[1], -gravity[2]};
    memset(b[0].e, 0, sizeof b[0].e);
    mulT(b[0].r, up, b[0].l);
    for (int64_t i = 1; i < n; i++) {
        Body *k = &b[i], *p = &b[k->parent];
        double x[3], *U = k->U;
        cross(p->e, k->t, x);
        for (int j = 0; j < 3; j++) x[j] += p->l[j];
        mulT(k->r, p->e, k->e); mulT(k->r, x, k->l);
        double along = 0;
        for (int j = 0; j < 3; j++) {
            k->e[j] += k->c[j]; k->l[j] += k->c[3 + j];
            along += U[j] * k->e[j] + U[3 + j] * k->l[j];
        }
        a[i - 1] = (k->g - along) * k->D;
        for (int j = 0; j < 3; j++) k->e[j] += k->axis[j] * a[i - 1];
    }
}

static void get(void *to, size_t size) {
    if (fread(to, 1, size, stdin) != size) exit(1);
}

int main(void) {
    int64_t head[3];
    get(head, sizeof head);
    int64_t n = head[0], states = head[1], m = n - 1;
    Body *b = calloc(n, sizeof *b);
    for (int64_t i = 0; i < n; i++) get(&b[i].parent, 8);
    for (int64_t i = 0; i < n; i++) {
        get(b[i].fixed, 72); get(b[i].origin, 24); get(b[i].axis, 24);
        get(&b[i].mass, 8); get(b[i].centre, 24); get(b[i].tensor, 72);
    }
    double gravity[3];
    get(gravity, sizeof gravity);
    double *x = malloc(4 * states * m * sizeof *x);
    get(x, 3 * states * m * sizeof *x);
    double *q = x, *v = q + states * m, *tau = v + states * m, *a = tau + states * m, best = 1e9;
    for (int64_t k = 0; k < head[2]; k++) {
        struct timespec start, end;
        clock_gettime(CLOCK_MONOTONIC, &start);
        for (int64_t s = 0; s < states; s++)
            forward(b, n, q + s * m, v + s * m, tau + s * m, gravity, a + s * m);
        clock_gettime(CLOCK_MONOTONIC, &end);
        double spent = end.tv_sec - start.tv_sec + 1e-9 * (end.tv_nsec - start.tv_nsec);
        if (spent < best) best = spent;
    }
    fwrite(a, sizeof *a, states * m, stdout);
    fprintf(stderr, "%.9f\n", best);
    return 0;
}
