<?php

declare(strict_types=1);

namespace Emberstone\Core\Orient;

use Emberstone\Core\Geometry\Transform;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\InvalidParameter;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Progress;
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
        return new About('turn', Stage::Orient, 'Turn', 'Turns everything about an axis of the frame, by a handle in the view or typed degrees.', 'any', TurnParameters::class);
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        if ($parameters->angle === 0.0) {
            throw InvalidParameter::of('angle', 'is 0; type by how much to turn');
        }
        $k = (int) strpos('xyz', $parameters->axis);
        $turn = self::byDegrees($k, $parameters->angle);
        if ($parameters->about === 'middle') {
            [$x, $y, $z] = Extent::of($workpiece)->centre();
            $turn = Transform::shift(-$x, -$y, -$z)->then($turn)->then(Transform::shift($x, $y, $z));
        }

        return new Result($workpiece->moved($turn), sprintf('%+g° about %s', $parameters->angle, strtoupper($parameters->axis)), [], ['transform' => $turn->matrix]);
    }

    private static function byDegrees(int $k, float $degrees): Transform
    {
        $quarter = $degrees / 90.0;
        if ($quarter !== floor($quarter)) {
            $axis = [0.0, 0.0, 0.0];
            $axis[$k] = 1.0;

            return Transform::turn($axis, deg2rad($degrees));
        }
        $n = ((int) $quarter % 4 + 4) % 4;
        [$c, $s] = [[1.0, 0.0], [0.0, 1.0], [-1.0, 0.0], [0.0, -1.0]][$n];
        $m = array_fill(0, 9, 0.0);
        [$i, $j] = [($k + 1) % 3, ($k + 2) % 3];
        $m[4 * $k] = 1.0;
        $m[4 * $i] = $m[4 * $j] = $c;
        $m[3 * $i + $j] = -$s;
        $m[3 * $j + $i] = $s;

        return Transform::of($m, [0.0, 0.0, 0.0]);
    }
}
