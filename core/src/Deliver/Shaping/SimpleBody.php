<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\SimpleSolid;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\AxisChoice;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\MakesNew;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Makes a box, a cylinder, a cone, a ball or a tube to work with: to add, to take away, or to compare with.
 *
 * Output    a new closed body, all of it marked as made.
 * Error     corners lie on the shape; the flats of round walls within SimpleSolid::SAGITTA of it, up to a diameter of 100 mm.
 *
 * @implements Operation<SimpleBodyParameters>
 */
final class SimpleBody implements MakesNew, Operation
{
    public static function about(): About
    {
        return new About('simple-body', Stage::Deliver, 'Simple body', 'Makes a box, cylinder, cone, ball or tube to add, take away or measure against.', 'nothing', SimpleBodyParameters::class);
    }

    /**
     * @param  SimpleBodyParameters  $parameters
     * @return list<string>
     */
    public static function makes(object $parameters, ?array $on): array
    {
        return [$parameters->nameOfBody()];
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1, 20);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $axis = AxisChoice::of('axis', $parameters->axis, $workpiece->datums);
        $base = Vector3::plus($axis->point, Vector3::scaled($axis->direction, $parameters->start));
        $up = $axis->direction;
        $mesh = match ($parameters->kind) {
            'box' => SimpleSolid::box($base, $up, [$parameters->length, $parameters->width, $parameters->height]),
            'cone' => SimpleSolid::cone($base, $up, $parameters->diameter, $parameters->top, $parameters->height),
            'ball' => SimpleSolid::ball($base, $up, $parameters->diameter),
            'tube' => SimpleSolid::tube($base, $up, $parameters->diameter, $parameters->bore, $parameters->height),
            default => SimpleSolid::cone($base, $up, $parameters->diameter, $parameters->diameter, $parameters->height),
        };
        $progress->advance('making', 1.0);

        return new Result(
            $workpiece->withBodies([...$workpiece->bodies, Body::of($parameters->nameOfBody(), $mesh)]), $parameters->size()." along $axis->name",
            ['bodies' => count($workpiece->bodies)], ['bodies' => count($workpiece->bodies) + 1, 'faces' => $mesh->faceCount()],
        );
    }
}
