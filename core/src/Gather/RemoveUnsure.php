<?php

declare(strict_types=1);

namespace Emberstone\Core\Gather;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Sieve;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Workpiece;

/**
 * Takes away points of which the scanner itself was unsure. Passes that came without its confidence are left alone.
 *
 * @implements Operation<RemoveUnsureParameters>
 */
final class RemoveUnsure implements Operation
{
    public static function about(): About
    {
        return new About('remove-unsure', Stage::Gather, 'Remove unsure points', 'Takes away points of which the scanner itself was not sure, where its files say so. Raw points stay in the pass.', 'passes', RemoveUnsureParameters::class, avoid: 'Not where a dark or shiny area has no other points: a hole is worse than noise. Look at the noise report first.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return new Estimate(0.1 + 2e-7 * $workpiece->pointCount(), 50 + 5e-5 * $workpiece->pointCount());
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $notes = [];
        foreach ($workpiece->passes as $pass) {
            if (! $pass->source->hasConfidence) {
                $notes[] = "{$pass->name} does not say how sure the scanner was; nothing removed.";
            }
        }
        if ($workpiece->passes !== [] && count($notes) === count($workpiece->passes)) {
            throw UnsuitableInput::because('No pass says how sure the scanner was of its points. PLY with a property "confidence" and text with such a column say it.');
        }
        $least = $parameters->least ?? RemoveUnsureParameters::suggestLeast($workpiece) ?? -INF;

        return Sieve::apply($workpiece, fn (PointCloud $cloud) => self::mask($cloud, $least), $progress, 'confidence', $notes);
    }

    private static function mask(PointCloud $cloud, float $least): string
    {
        $mask = str_repeat("\1", $cloud->count());
        foreach ($cloud->confidence as $i => $confidence) {
            if ($confidence < $least) {
                $mask[$i] = "\0";
            }
        }

        return $mask;
    }
}
