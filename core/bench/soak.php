<?php

declare(strict_types=1);

// Random recipes on random damaged meshes and small demo scans, each checked for what every job must keep: core/bin/php-jit core/bench/soak.php MINUTES [SEED]
// Prints a line a round; what fails is printed with its seed, and the status is 1. One seed alone: soak.php 0 SEED.
require __DIR__.'/lib.php';

use Emberstone\Core\Foundation\EmberstoneException;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Measure\Inspection;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Outcome;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Workpiece;
use Emberstone\Core\Recipe\Catalogue;
use Emberstone\Core\Rigs\Catalogue as Rigs;
use Emberstone\Core\Rigs\HandheldRig;
use Emberstone\Core\Tests\Support\DirtyMesh;
use Emberstone\Core\Tests\Support\Gen;
use Emberstone\Core\Tests\Support\MeshBuilder;

set_error_handler(function (int $level, string $message, string $file, int $line): bool {
    throw new ErrorException($message, 0, $level, $file, $line);
});

/** A coarse scan of a demo part, anywhere in space and in any unit. */
function scan(Gen $gen): Workpiece
{
    $part = Rigs::part(['pedestal', 'cap', 'bush', 'ratchet-wheel', 'finial'][$gen->int(0, 4)]);
    $rig = new HandheldRig(passes: $gen->int(4, 8), width: 120, height: 90, table: false);
    $mm = [1.0, 10.0, 25.4, 1000.0][$gen->int(0, 3)];
    $by = RigidTransform::turn([$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), 0.7], $gen->float(0.0, 3.0))->then(RigidTransform::shift($gen->float(-1e5, 1e5), $gen->float(-1e5, 1e5), 0.0));

    return new Workpiece(array_map(function (int $k) use ($rig, $part, $gen, $mm, $by): Pass {
        return new Pass("p$k", "p$k", $rig->capture($part, $k, $gen->seed)['cloud']->scaled(1.0 / $mm), $by, scale: $mm);
    }, range(0, $rig->passes() - 1)));
}

/** A closed mesh, spoilt. */
function spoilt(Gen $gen): Workpiece
{
    $mesh = match ($gen->int(0, 3)) {
        0 => MeshBuilder::icosphere(4, $gen->float(5.0, 50.0)),
        1 => MeshBuilder::ring($gen->float(15.0, 30.0), $gen->float(3.0, 9.0), $gen->int(24, 60), $gen->int(9, 20)),
        2 => MeshBuilder::brick([$gen->float(5.0, 40.0), $gen->float(5.0, 40.0), $gen->float(5.0, 40.0)], $gen->int(3, 10)),
        default => MeshBuilder::together(MeshBuilder::icosphere(3, 10.0), MeshBuilder::icosphere(2, 4.0)->transformed(RigidTransform::shift(30.0, 0.0, 0.0))),
    };

    return new Workpiece(bodies: [Body::of('body', DirtyMesh::of($mesh, $gen->seed, $gen->int(1, 2))->mesh())]);
}

/** @return list<array{string, array<string, mixed>|Closure(Workpiece): array<string, mixed>}> a recipe: operations with their parameters, or with what makes them from the state before */
function recipe(Gen $gen, bool $isScan): array
{
    $steps = $isScan ? [['register', []], ['remove-outliers', []], ['fuse', ['voxel' => $gen->float(1.5, 3.0)]], ['keep-pieces', ['largest' => 1]]] : [];
    $steps[] = ['repair', []];
    $steps[] = ['fill-holes', ['shape' => ['flat', 'tangent', 'curved'][$gen->int(0, 2)]]];
    $steps[] = ['repair', []];
    $normal = [$gen->float(-1.0, 1.0), $gen->float(-1.0, 1.0), $gen->float(0.1, 1.0)];
    $through = fn (Workpiece $workpiece): array => ['plane' => ['point' => BoundingBox::of($workpiece->meshes()[0]->placed()->positions)->centre(), 'normal' => $normal]];
    foreach ($gen->shuffled([['remesh', ['faces' => $gen->int(500, 3000), 'adapt' => $gen->float(0.0, 1.0)]], ['split', fn (Workpiece $workpiece) => $through($workpiece) + ['cap' => true]], ['section', fn (Workpiece $workpiece) => $through($workpiece) + ['count' => 3, 'fit' => 0.05]], ['smooth', ['maxShift' => 0.1]], ['decimate', ['deviation' => $gen->float(0.02, 0.3)]], ['decimate', ['ratio' => $gen->float(0.2, 0.8)]], ['scale', ['factor' => $gen->float(0.5, 2.0)]], ['centre', []], ['turn', ['angle' => $gen->float(-180.0, 180.0)]]]) as $k => $step) {
        if ($k < 4) {
            $steps[] = $step;
        }
    }

    return $steps;
}

/** @return array{Workpiece, list<string>} the result, and what does not hold */
function carriedOut(Workpiece $workpiece, array $steps): array
{
    $wrong = [];
    $closed = false;
    foreach ($steps as $k => [$name, $parameters]) {
        $parameters = $parameters instanceof Closure ? $parameters($workpiece) : $parameters;
        $was = serialize($workpiece);
        $result = Catalogue::operation($name)($workpiece, Catalogue::parameters($name, $parameters), new NoProgress);
        if (serialize($workpiece) !== $was) {
            $wrong[] = "step $k ($name) changed its input";
        }
        $workpiece = $result->workpiece;
        foreach ($workpiece->bodies as $body) {
            $mesh = $body->placed();
            if (! $mesh instanceof TriangleMesh || $mesh->faces === []) {
                $wrong[] = "step $k ($name) left nothing of $body->name";

                continue;
            }
            $inspection = Inspection::of($mesh);
            $made = array_sum($inspection->madeUp);
            if (abs($inspection->measured + $made - 1.0) > 1e-6) {
                $wrong[] = sprintf('step %d (%s): evidence of %s sums to %.6f', $k, $name, $body->name, $inspection->measured + $made);
            }
            if ($closed && ! $inspection->closed) {
                $wrong[] = "step $k ($name) opened $body->name";
            }
            // After the second repair all is closed and sound unless the step says that it is not.
            if ($name === 'repair' && $k > 0 && $result->outcome === Outcome::Reached && $steps[$k - 1][0] === 'fill-holes') {
                $closed = $inspection->closed;
                $left = array_filter($inspection->faults);
                if ($left !== [] && $closed) {
                    $wrong[] = "step $k (repair) left ".json_encode($left);
                }
            }
        }
        if ($name === 'section' && $closed && $result->after['open'] > 0) {
            $wrong[] = "step $k (section) has open curves of a closed body";
        }
        if ($name === 'decimate' && isset($parameters['deviation']) && ($result->after['deviation'] ?? 0.0) > $parameters['deviation']) {
            $wrong[] = "step $k (decimate) went {$result->after['deviation']} mm, asked for {$parameters['deviation']}";
        }
    }

    return [$workpiece, $wrong];
}

[, $minutes] = $argv;
$end = microtime(true) + 60.0 * (float) $minutes;
$failed = 0;
$seed = (int) ($argv[2] ?? random_int(1, 1_000_000_000));
do {
    $gen = new Gen($seed);
    $isScan = $gen->int(0, 3) === 0;
    $start = microtime(true);
    $said = '';
    try {
        $workpiece = $isScan ? scan($gen) : spoilt($gen);
        $steps = recipe($gen, $isScan);
        [$result, $wrong] = carriedOut($workpiece, $steps);
        // The ledger would run it again: the same to the last bit.
        if ($wrong === [] && serialize(carriedOut($workpiece, $steps)[0]) !== serialize($result)) {
            $wrong[] = 'the same steps gave something else the second time';
        }
    } catch (EmberstoneException $refused) {
        $wrong = $refused->getMessage() === '' ? ['refused without a word'] : [];
        $said = $refused->getMessage();
    } catch (Throwable $problem) {
        $wrong = [get_class($problem).': '.$problem->getMessage().' at '.basename($problem->getFile()).':'.$problem->getLine()];
    }
    $failed += $wrong === [] ? 0 : 1;
    printf("%s seed %d, %s, %.1f s%s\n", $wrong !== [] ? 'FAIL' : ($said === '' ? 'ok  ' : 'refused'), $seed, $isScan ? 'scan' : 'mesh', microtime(true) - $start, $wrong === [] ? ($said === '' ? '' : ": $said") : ': '.implode('; ', array_slice($wrong, 0, 3)));
    $seed = $seed % 1_000_000_000 + 1;
} while (microtime(true) < $end);
exit($failed === 0 ? 0 : 1);
