<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Datums\FitDatum;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\NoProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Turns everything about an axis of the frame; quarter turns are exact.
 *
 * @implements Operation<TurnParameters>
 */
final class Turn implements Operation
{
    public static function about(): About
    {
        return new About('turn', Stage::Orient, 'Turn', 'Turns everything about an axis of the frame, by a handle in the view or typed degrees.', 'any', TurnParameters::class, together: true, avoid: 'Not to lay a face level exactly: set the frame from datums.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        if ($parameters->level === null && $parameters->angle === 0.0) {
            throw InvalidParameter::of('angle', 'is 0; type by how much to turn');
        }
        [$turn, $words] = $parameters->level === null
            ? [self::byDegrees((int) strpos('xyz', $parameters->axis), $parameters->angle), sprintf('%+g° about %s', $parameters->angle, strtoupper($parameters->axis))]
            : self::levelling($workpiece, array_map(fn (array $at) => array_map(floatval(...), array_values($at)), array_values($parameters->level)));
        if ($parameters->about === 'middle') {
            [$x, $y, $z] = Extent::of($workpiece)->centre();
            $turn = RigidTransform::shift(-$x, -$y, -$z)->then($turn)->then(RigidTransform::shift($x, $y, $z));
        }

        return new Result($workpiece->moved($turn), $words, [], ['transform' => $turn->matrix], everything: Placement::of(1.0, $turn));
    }

    /**
     * The least turn that makes a face point up, or a line lie along the axis it is nearest to.
     *
     * @param  list<array<int, float>>  $places
     * @return array{RigidTransform, string}
     */
    private static function levelling(Workpiece $workpiece, array $places): array
    {
        if (count($places) === 1) {
            $face = (new AddDatum)($workpiece->withDatums([]), new AddDatumParameters('face', 'plane', $places[0]), new NoProgress)->workpiece->datums[0];
            [$from, $to, $words] = [$face->direction, [0.0, 0.0, 1.0], 'face up'];
        } else {
            $line = FitDatum::fromPoints([[$places[0][0], $places[0][1], $places[0][2]], [$places[1][0], $places[1][1], $places[1][2]]], 'line', 'line');
            $from = $line->direction;
            $k = 0;
            foreach ([1, 2] as $axis) {
                $k = abs($from[$axis]) > abs($from[$k]) ? $axis : $k;
            }
            $to = [0.0, 0.0, 0.0];
            $to[$k] = $from[$k] < 0.0 ? -1.0 : 1.0;
            $words = 'line along '.'XYZ'[$k];
        }
        $axis = Vector3::cross($from, $to);
        $angle = atan2(Vector3::length($axis), Vector3::dot($from, $to));

        // Upside down, any way round is as short.
        return [RigidTransform::turn(Vector3::length($axis) < 1e-12 ? Vector3::square($from)[0] : $axis, $angle), sprintf('%s, %.2f°', $words, rad2deg($angle))];
    }

    private static function byDegrees(int $k, float $degrees): RigidTransform
    {
        $quarter = $degrees / 90.0;
        if ($quarter !== floor($quarter)) {
            $axis = [0.0, 0.0, 0.0];
            $axis[$k] = 1.0;

            return RigidTransform::turn($axis, deg2rad($degrees));
        }
        $n = ((int) $quarter % 4 + 4) % 4;
        [$c, $s] = [[1.0, 0.0], [0.0, 1.0], [-1.0, 0.0], [0.0, -1.0]][$n];
        $m = array_fill(0, 9, 0.0);
        [$i, $j] = [($k + 1) % 3, ($k + 2) % 3];
        $m[4 * $k] = 1.0;
        $m[4 * $i] = $m[4 * $j] = $c;
        $m[3 * $i + $j] = -$s;
        $m[3 * $j + $i] = $s;

        return RigidTransform::of($m, [0.0, 0.0, 0.0]);
    }
}
