<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Pass;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\SelectionParameters;
use Emberstone\Core\Operation\Workpiece;

/** Deletes the selected part of passes and bodies, or all but it. Passes keep their raw points under a mask. */
final class Selected
{
    /**
     * Keeps what is selected of passes and bodies, or takes it away.
     *
     * @throws UnsuitableInput when nothing is selected
     */
    public static function apply(Workpiece $workpiece, SelectionParameters $parameters, bool $keep): Result
    {
        $gone = 0;
        $touched = 0;
        $drop = $keep ? "\0" : "\1";
        $passes = [];
        foreach ($workpiece->passes as $pass) {
            $marks = $parameters->marks($pass->id, $pass->count());
            $passes[] = $marks === null ? $pass : self::cutPass($pass, $marks, $drop, $gone, $touched);
        }
        $bodies = [];
        foreach ($workpiece->bodies as $body) {
            $elements = $body->geometry instanceof PointCloud ? $body->geometry->count() : $body->geometry->faceCount();
            $marks = $parameters->marks($body->id, $elements);
            $bodies[] = $marks === null ? $body : self::cutBody($body, $marks, $drop, $gone, $touched);
        }
        if ($touched === 0) {
            throw UnsuitableInput::because('Nothing is selected; outline or brush the part first.');
        }

        $after = $workpiece->withPasses($passes)->withBodies($bodies);

        return new Result($after, '− '.Counts::inWords($workpiece, $after), [], ['removed' => $gone]);
    }

    private static function cutPass(Pass $pass, string $marks, string $drop, int &$gone, int &$touched): Pass
    {
        $mask = $pass->mask ?? str_repeat("\1", $pass->count());
        $before = substr_count($mask, "\1");
        for ($i = 0, $n = strlen($mask); $i < $n; $i++) {
            if ($marks[$i] === $drop) {
                $mask[$i] = "\0";
            }
        }
        $gone += $before - substr_count($mask, "\1");
        $touched++;

        return new Pass($pass->id, $pass->name, $pass->source, $pass->transform, $mask, $pass->residual, $pass->overlap, $pass->scale, $pass->poseError);
    }

    private static function cutBody(Body $body, string $marks, string $drop, int &$gone, int &$touched): Body
    {
        $geometry = $body->geometry;
        $gone += substr_count($marks, $drop);
        $touched++;
        if ($geometry instanceof PointCloud) {
            $geometry = $geometry->kept($drop === "\0" ? $marks : strtr($marks, "\0\1", "\1\0"));
        } else {
            $keep = [];
            for ($i = 0, $n = strlen($marks); $i < $n; $i++) {
                if ($marks[$i] !== $drop) {
                    $keep[] = $i;
                }
            }
            if ($keep === []) {
                throw UnsuitableInput::because("Nothing of {$body->name} would be left; delete the body instead.");
            }
            $geometry = $geometry->withFaces($keep);
        }

        return $body->pared($geometry);
    }
}
