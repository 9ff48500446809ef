"""The same decimation in VTK, for the ratio: python3 core/bench/decimate_vtk.py FOLDER (optional; Debian's python3-vtk9)."""
import resource, sys
from vtkmodules.vtkIOPLY import vtkPLYReader, vtkPLYWriter
from vtkmodules.vtkFiltersCore import vtkQuadricDecimation

folder = sys.argv[1]
for name in ['torus', 'finial', 'pedestal', 'cap', 'wheel']:
    reader = vtkPLYReader(); reader.SetFileName(f'{folder}/{name}.ply'); reader.Update()
    times = []
    for _ in range(3):
        d = vtkQuadricDecimation(); d.SetInputData(reader.GetOutput()); d.SetTargetReduction(0.9)
        t = resource.getrusage(resource.RUSAGE_SELF).ru_utime; d.Update(); times.append(resource.getrusage(resource.RUSAGE_SELF).ru_utime - t)
        if times[0] > 20.0: break
    writer = vtkPLYWriter(); writer.SetFileName(f'{folder}/{name}-vtk.ply'); writer.SetInputData(d.GetOutput()); writer.Write()
    print('{"%s": {"vtkSeconds": %.3f, "faces": %d}}' % (name, min(times), d.GetOutput().GetNumberOfPolys()))
