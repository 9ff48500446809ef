<?php

declare(strict_types=1);

namespace Emberstone\Core\Register\Fixture;

use Emberstone\Core\Algorithms\Linear\Median;
use Emberstone\Core\Algorithms\Parallel\Cores;
use Emberstone\Core\Algorithms\Parallel\Fork;
use Emberstone\Core\Cloud\OrientedCloud;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Finds where several fixed sensors stand from one capture of a known target: each pass is one head's look at it. The passes are placed on the target,
 * and the poses are kept as a fixture.
 *
 * @implements Operation<SolveFixtureParameters>
 */
final class SolveFixture implements Operation
{
    public static function about(): About
    {
        return new About('solve-fixture', Stage::Register, 'Solve fixture', 'Finds where fixed sensors stand from their looks at a target with balls and flat faces, each pass one head. The poses are kept for later captures.', 'passes', SolveFixtureParameters::class, avoid: 'Not with the part in place of the target: it needs balls and flat faces of known size.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 1e-5 * $workpiece->pointCount(), 100 + 4e-4 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        if ($workpiece->passes === []) {
            throw UnsuitableInput::because('There is no pass to look at: capture the target with every head first.');
        }
        $target = $parameters->target();
        $tasks = array_map(fn (Pass $pass) => function () use ($pass, $target): string {
            ['cloud' => $cloud, 'spacing' => $spacing, 'across' => $across] = OrientedCloud::of($pass->keptCloud());
            $balls = $target->balls === [] ? [] : FixtureBalls::find($cloud->positions, $cloud->normals, $target->radius);
            $planes = $target->planes === [] ? [] : FixturePlanes::find($cloud->positions, $cloud->normals, $spacing, Median::of(array_values($across)));
            $found = (new FixturePose($balls, $planes, $target))->found();

            return json_encode([
                'seen' => [count($balls), count($planes)], 'balls' => $found['balls'] ?? 0, 'planes' => $found['planes'] ?? 0, 'rms' => $found['rms'] ?? 0.0, 'ways' => $found['ways'] ?? 0, 'pose' => $found === null ? null : $found['pose']->matrix,
            ], JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION);
        }, $workpiece->passes);
        $heads = $passes = $notes = [];
        foreach (Fork::map($tasks, Cores::count(), $progress, 'looking for the target') as $k => $json) {
            $found = json_decode($json, true, 8, JSON_THROW_ON_ERROR);
            $pass = $workpiece->passes[$k];
            if ($found['pose'] === null) {
                throw UnsuitableInput::because(sprintf('%s: %s and %s were found, and too few of them lie to each other as on the target. Check the target and the diameter of its balls, bring it fully into view, or leave this pass out.', $pass->name, Format::many($found['seen'][0], 'ball')." of {$parameters->diameter} mm", Format::many($found['seen'][1], 'flat face')));
            }
            if ($found['ways'] > 1) {
                throw UnsuitableInput::because(sprintf('%s: what was found of the target (%s, %s) fits it in %d ways. Bring more of it into view, or use a target of which no turn looks like another.', $pass->name, Format::many($found['balls'], 'ball'), Format::many($found['planes'], 'flat face'), $found['ways']));
            }
            $pose = RigidTransform::fromMatrix($found['pose']);
            $heads[] = ['name' => $pass->name, 'transform' => $pose, 'residual' => $found['rms'], 'balls' => $found['balls'], 'planes' => $found['planes']];
            $passes[] = $pass->moved($pose, $found['rms'], 1.0);
            if ($found['balls'] < count($target->balls)) {
                $notes[] = "{$pass->name} saw {$found['balls']} of ".count($target->balls).' balls and '.Format::many($found['planes'], 'flat face').'.';
            }
        }
        $worst = max(array_column($heads, 'residual'));

        return new Result(
            $workpiece->withPasses($passes), count($heads).' heads, residual '.Format::mm($worst), [],
            ['residual' => round($worst, 5), 'heads' => array_map(fn (array $head) => ['name' => $head['name'], 'balls' => $head['balls'], 'planes' => $head['planes'], 'residual' => round($head['residual'], 5)], $heads), 'fixture' => Fixture::of($heads)->toArray()],
            $notes,
        );
    }
}
