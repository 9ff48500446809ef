<?php

declare(strict_types=1);

namespace Emberstone\Core\Mend;

use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Places;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Joins two stretches of rim by a strip that leaves both along their slope: one large hole becomes two easy ones.
 *
 * Source    see RimSide and RimFiller.
 * Keeps     every vertex and face there was.
 *
 * @implements Operation<LayStripParameters>
 */
final class LayStrip implements Operation
{
    public static function about(): About
    {
        return new About('lay-strip', Stage::Mend, 'Lay strip', 'Joins two stretches of rim by a strip of new surface, so that one large hole becomes two easy ones.', 'meshes', LayStripParameters::class, avoid: 'Not where the hole is small or nearly flat: close it whole.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.5 + 4e-6 * $workpiece->faceCount(), 60 + 4e-4 * $workpiece->faceCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        [$a, $b, $c, $d] = Places::checked('points', $parameters->points, 4);

        return RimCover::ofStrip($workpiece, $a, $b, $c, $d, $progress);
    }
}
