<?php

declare(strict_types=1);

// Prints one digest a kernel and one an operation of the catalogue: digests.php PROCESSES. JitTest compares what it prints with and without the JIT, and on one and two processes.
require __DIR__.'/../../../vendor/autoload.php';

use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Remeshing\QuadricCollapse;
use Emberstone\Core\Algorithms\Search\PointGrid;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Fuse\Fuse;
use Emberstone\Core\Fuse\FuseParameters;
use Emberstone\Core\Mend\FillHoles;
use Emberstone\Core\Mend\FillHolesParameters;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Register\Register;
use Emberstone\Core\Register\RegisterParameters;
use Emberstone\Core\Rigs\BearingPedestal;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Tests\Support\OperationExamples;

ini_set('memory_limit', '-1');
Cores::limit((int) ($argv[1] ?? 2));
$say = function (string $kernel, array ...$numbers): void {
    echo $kernel, ' ', md5(implode(array_map(fn (array $list) => pack('e*', ...$list), $numbers))), "\n";
};
$rig = new HandheldRig(width: 112, height: 84, table: false);
$passes = [];
for ($k = 0; $k < 4; $k++) {
    $passes[] = Pass::of("pass $k", $rig->capture(new BearingPedestal, $k, 3)['cloud']);
}
$say('capture', ...array_map(fn (Pass $pass) => $pass->cloud()->positions, $passes));
$near = PointGrid::of($passes[0]->cloud()->positions)->neighbourhoods(16);
$say('neighbourhoods', $near['normals'], $near['spacing'], $near['lean']);
$quiet = new NoProgress;
$workpiece = (new Register)(new Workpiece($passes), new RegisterParameters(maxDistance: 6.0), $quiet)->workpiece;
$say('register', ...array_map(fn (Pass $pass) => $pass->transform->matrix, $workpiece->passes));
$workpiece = (new Fuse)($workpiece, new FuseParameters(2.0), $quiet)->workpiece;
$mesh = $workpiece->bodies[0]->geometry;
assert($mesh instanceof TriangleMesh);
$say('fuse', $mesh->positions, $mesh->faces);
$filled = (new FillHoles)($workpiece, new FillHolesParameters(maxDiameter: 25.0), $quiet)->workpiece->bodies[0]->geometry;
assert($filled instanceof TriangleMesh);
$say('fill-holes', $filled->positions, $filled->faces);
$light = QuadricCollapse::run($filled->positions, $filled->faces, [], [], intdiv($filled->faceCount(), 5), INF, 100.0, fn (float $done) => null);
$say('decimate', $light['positions'], $light['faces']);
$bvh = TriangleBvh::of($filled->positions, $filled->faces);
$distanceSq = $face = [];
$bvh->closest(array_slice($passes[1]->cloud()->positions, 0, 9000), $face, $distanceSq);
$say('closest', $distanceSq, $face);
$rays = [];
foreach (array_chunk(array_slice($passes[1]->cloud()->positions, 0, 9000), 3) as $point) {
    array_push($rays, 0.0, 0.0, 500.0, $point[0], $point[1], $point[2] - 500.0);
}
$bvh->firstAlong($rays, $face, $distanceSq);
$say('rays', $distanceSq, $face);
foreach (Catalogue::names() as $name) {
    // They stand above: a capture for simulated scans, and the kernels of the same names.
    if (! in_array($name, ['simulate', 'register', 'fuse', 'fill-holes', 'decimate'], true)) {
        $result = Catalogue::operation($name)(OperationExamples::workpiece($name), Catalogue::parameters($name, OperationExamples::PARAMETERS[$name]), $quiet);
        echo "$name ", md5(serialize($result->workpiece)), "\n";
    }
}
