"""The work of kernels.php in SciPy and VTK, for the ratios: python3 core/bench/kernels_peers.py FOLDER (optional)."""
import json, resource, sys
import numpy as np
from scipy.spatial import cKDTree
from vtkmodules.vtkIOGeometry import vtkSTLReader, vtkSTLWriter
from vtkmodules.vtkIOPLY import vtkPLYReader
from vtkmodules.vtkCommonDataModel import vtkStaticCellLocator
from vtkmodules.vtkCommonCore import mutable

folder = sys.argv[1]


def measure(kernel, work):
    times = []
    for _ in range(5):
        a = resource.getrusage(resource.RUSAGE_SELF)
        result = work()
        b = resource.getrusage(resource.RUSAGE_SELF)
        times.append(b.ru_utime + b.ru_stime - a.ru_utime - a.ru_stime)
    print(json.dumps({'kernel': kernel, 'theirs': round(min(times), 3)}), flush=True)
    return result


points = np.fromfile(folder + '/points.f64').reshape(-1, 3)
queries = points[:100000]
tree = measure('point grid, 1 M points', lambda: cKDTree(points))
measure('kd-tree, 1 M points', lambda: cKDTree(points))


def normals():
    _, near = tree.query(points[400000:600000], k=16)
    q = points[near]
    q = q - q.mean(axis=1, keepdims=True)
    return np.linalg.eigh(np.einsum('nki,nkj->nij', q, q))[1][:, :, 0]


measure('16 neighbours and normals of 200 k of 1 M', normals)
measure('nearest of 1 M, 100 k queries', lambda: tree.query(queries, k=1))
moving, moving_normals, still, still_normals = (np.fromfile(f'{folder}/{name}.f64').reshape(-1, 3) for name in ('moving', 'moving-normals', 'still', 'still-normals'))
still_tree = cKDTree(still)


def turn(axis_angle):
    angle = np.linalg.norm(axis_angle)
    if angle == 0.0:
        return np.eye(3)
    x, y, z = axis_angle / angle
    k = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    return np.eye(3) + np.sin(angle) * k + (1.0 - np.cos(angle)) * k @ k


def best_fit():
    r, t = turn(np.array([0.0, 0.0, 0.004])), np.array([0.03, -0.02, 0.04])
    for _ in range(30):
        p = moving @ r.T + t
        distance, near = still_tree.query(p, k=1, distance_upper_bound=0.3)
        ok = np.flatnonzero(np.isfinite(distance))
        n = still_normals[near[ok]]
        m = moving_normals[ok] @ r.T
        c = np.einsum('ij,ij->i', n, m)
        facing = c >= 0.75
        ok, n, m, c = ok[facing], n[facing], m[facing], c[facing]
        n = np.where((c > 0.985)[:, None], (n + m) / np.sqrt(2.0 + 2.0 * c)[:, None], n)
        q = p[ok]
        e = np.einsum('ij,ij->i', n, q - still[near[ok]])
        cut = 4.685 * max(1e-4, 1.4826 * np.median(np.abs(e)))
        inside = np.abs(e) <= cut
        q, n, e = q[inside], n[inside], e[inside]
        w = (1.0 - (e / cut) ** 2) ** 2
        j = np.hstack([np.cross(q, n), n])
        step = np.linalg.solve(j.T @ (w[:, None] * j), -j.T @ (w * e))
        d = turn(step[:3])
        r, t = d @ r, d @ t + step[3:]
    return np.sqrt((w * e * e).sum() / w.sum())


residual = measure('best fit, 200 k onto 200 k points, 30 rounds', best_fit)
print(json.dumps({'best fit, residual': round(residual, 6)}), flush=True)


reader = vtkPLYReader(); reader.SetFileName(folder + '/torus.ply'); reader.Update()
mesh = reader.GetOutput()


def build():
    locator = vtkStaticCellLocator(); locator.SetDataSet(mesh); locator.BuildLocator()
    return locator


locator = measure('triangle tree, 500 k faces', build)


def closest():
    spot, cell, sub, distance = [0.0] * 3, mutable(0), mutable(0), mutable(0.0)
    for q in queries:
        locator.FindClosestPoint(q, spot, cell, sub, distance)


measure('closest point on 500 k faces, 100 k queries', closest)

rays = np.fromfile(folder + '/rays.f64').reshape(-1, 6)


def cast():
    t, spot, parametric, sub, cell = mutable(0.0), [0.0] * 3, [0.0] * 3, mutable(0), mutable(0)
    return sum(locator.IntersectWithLine(ray[:3], ray[:3] + ray[3:], 0.0, t, spot, parametric, sub, cell) for ray in rays)


print(json.dumps({'rays that meet a face': measure('100 k rays onto 500 k faces', cast)}), flush=True)


def write():
    writer = vtkSTLWriter(); writer.SetFileName(folder + '/torus-vtk.stl'); writer.SetFileTypeToBinary(); writer.SetInputData(mesh); writer.Write()


def read():
    stl = vtkSTLReader(); stl.SetFileName(folder + '/torus-vtk.stl'); stl.Update()


measure('write binary STL, 500 k faces', write)
measure('read and weld binary STL, 500 k faces', read)
