<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Keeps what lies in a box, or copies it to new bodies. A face counts as inside when its middle is; faces are not cut.
 *
 * @implements Operation<CropParameters>
 */
final class Crop implements MakesNew, Operation
{
    public static function about(): About
    {
        return new About('crop', Stage::Gather, 'Crop', 'Keeps what lies in a box, or copies it to a new body. Undo brings the rest back.', 'any', CropParameters::class);
    }

    /**
     * @param  CropParameters  $parameters
     * @return list<string>|null
     */
    public static function makes(object $parameters, ?array $on): ?array
    {
        return $parameters->outside === 'copy' ? null : [];
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.2 + 3e-7 * ($workpiece->pointCount() + $workpiece->faceCount()), 50 + 5e-5 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $workpiece->refuseEmpty();
        $into = $parameters->intoBox();
        $half = $parameters->half();
        $many = count($workpiece->passes) + count($workpiece->bodies);
        $inside = $total = $done = 0;
        $passMasks = $bodyMasks = [];
        foreach ($workpiece->passes as $pass) {
            $mask = self::inside($pass->keptCloud()->positions, $pass->transform->then($into), $half);
            $passMasks[] = $mask;
            $inside += substr_count($mask, "\1");
            $total += strlen($mask);
            $progress->advance('looking', ++$done / $many);
        }
        foreach ($workpiece->bodies as $body) {
            $geometry = $body->own();
            $mask = self::inside($geometry instanceof TriangleMesh ? self::middles($geometry) : $geometry->positions, $body->transform->then($into), $half);
            $bodyMasks[] = $mask;
            $inside += substr_count($mask, "\1");
            $total += strlen($mask);
            $progress->advance('looking', ++$done / $many);
        }
        if ($inside === 0) {
            throw UnsuitableInput::because('Nothing lies in the box; move it over the part or make it larger.');
        }
        $result = $parameters->outside === 'copy' ? self::copied($workpiece, $passMasks, $bodyMasks) : self::cropped($workpiece, $passMasks, $bodyMasks);

        return new Result($result, $parameters->outside === 'copy' ? Counts::inWords($workpiece, $result).' copied' : '− '.Counts::inWords($workpiece, $result), ['elements' => $total], ['elements' => $inside]);
    }

    /** @return list<float> */
    private static function middles(TriangleMesh $mesh): array
    {
        $p = $mesh->positions;
        $f = $mesh->faces;
        $middles = [];
        for ($t = 0, $n = count($f); $t < $n; $t += 3) {
            [$a, $b, $c] = [3 * $f[$t], 3 * $f[$t + 1], 3 * $f[$t + 2]];
            $middles[] = ($p[$a] + $p[$b] + $p[$c]) / 3.0;
            $middles[] = ($p[$a + 1] + $p[$b + 1] + $p[$c + 1]) / 3.0;
            $middles[] = ($p[$a + 2] + $p[$b + 2] + $p[$c + 2]) / 3.0;
        }

        return $middles;
    }

    /**
     * @param  list<float>  $p
     * @param  array{float, float, float}  $half
     * @return string a byte a point, one inside the box
     */
    private static function inside(array $p, RigidTransform $into, array $half): string
    {
        $p = $into->points($p);
        [$hx, $hy, $hz] = $half;
        $mask = str_repeat("\0", intdiv(count($p), 3));
        for ($i = 0, $o = 0, $e = count($p); $o < $e; $i++, $o += 3) {
            if ($p[$o] >= -$hx && $p[$o] <= $hx && $p[$o + 1] >= -$hy && $p[$o + 1] <= $hy && $p[$o + 2] >= -$hz && $p[$o + 2] <= $hz) {
                $mask[$i] = "\1";
            }
        }

        return $mask;
    }

    /**
     * @param  list<string>  $passMasks
     * @param  list<string>  $bodyMasks
     */
    private static function cropped(Workpiece $workpiece, array $passMasks, array $bodyMasks): Workpiece
    {
        $passes = $bodies = [];
        foreach ($workpiece->passes as $k => $pass) {
            $passes[] = str_contains($passMasks[$k], "\0") ? $pass->narrowed($passMasks[$k]) : $pass;
        }
        foreach ($workpiece->bodies as $k => $body) {
            if (! str_contains($bodyMasks[$k], "\0")) {
                $bodies[] = $body;
            } elseif (! str_contains($bodyMasks[$k], "\1")) {
                throw UnsuitableInput::because("Nothing of {$body->name} lies in the box; move the box, or delete the body instead.");
            } else {
                $bodies[] = $body->pared(self::part($body, $bodyMasks[$k]));
            }
        }

        return $workpiece->withPasses($passes)->withBodies($bodies);
    }

    /**
     * Points of all passes as one new cloud, and a new body for each body that has something in the box.
     *
     * @param  list<string>  $passMasks
     * @param  list<string>  $bodyMasks
     */
    private static function copied(Workpiece $workpiece, array $passMasks, array $bodyMasks): Workpiece
    {
        $bodies = $workpiece->bodies;
        $taken = array_map(fn (Body $body) => $body->name, $bodies);
        $fresh = function (string $name) use (&$taken): string {
            for ($k = 1, $new = $name; in_array($new, $taken, true); $new = $name.' '.++$k);
            $taken[] = $new;

            return $new;
        };
        $clouds = [];
        foreach ($workpiece->passes as $k => $pass) {
            if (str_contains($passMasks[$k], "\1")) {
                $clouds[] = $pass->keptCloud()->kept($passMasks[$k])->transformed($pass->transform);
            }
        }
        if ($clouds !== []) {
            $bodies[] = Body::of($fresh('Cropped points'), count($clouds) === 1 ? $clouds[0] : PointCloud::joined($clouds));
        }
        foreach ($workpiece->bodies as $k => $body) {
            if (str_contains($bodyMasks[$k], "\1")) {
                $name = $fresh("{$body->name}, cropped");
                $bodies[] = new Body($name, $name, self::part($body, $bodyMasks[$k]), $body->transform, scale: $body->scale);
            }
        }

        return $workpiece->withBodies($bodies);
    }

    private static function part(Body $body, string $mask): TriangleMesh|PointCloud
    {
        if ($body->geometry instanceof PointCloud) {
            return $body->geometry->kept($mask);
        }
        $keep = [];
        for ($t = 0, $n = strlen($mask); $t < $n; $t++) {
            if ($mask[$t] === "\1") {
                $keep[] = $t;
            }
        }

        return $body->geometry->withFaces($keep);
    }
}
