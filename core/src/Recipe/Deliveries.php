<?php

declare(strict_types=1);

namespace Emberstone\Core\Recipe;

use Emberstone\Core\Deliver\Handover\HandedOver;
use Emberstone\Core\Deliver\Handover\HandoverContext;
use Emberstone\Core\Deliver\Handover\Package;
use Emberstone\Core\Foundation\Version;
use Emberstone\Core\Geometry\Placement;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Workpiece;

/** What the `deliver` steps of a run leave as files: those of the bodies, the report, and one zip of all where a package was asked for. */
final class Deliveries
{
    /**
     * @param  list<array<string, mixed>>  $steps  reports of the run
     * @param  Placement  $frame  see Run
     * @param  string  $recipe  its text
     * @param  callable(string, string): void  $put  writes a file: its name, its bytes
     * @return list<array<string, mixed>> for the report
     */
    public static function write(Workpiece $workpiece, array $steps, Placement $frame, string $recipe, callable $put): array
    {
        $deliveries = [];
        foreach (array_values(array_filter($workpiece->artefacts, fn (Artefact $one) => $one->kind === HandedOver::KIND)) as $k => $artefact) {
            $delivery = HandedOver::of($artefact);
            $context = self::context($steps, $frame);
            $files = Package::files($delivery, $context, $recipe);
            // A second one does not write over the first.
            $before = $k === 0 ? '' : 'delivery-'.($k + 1).'-';
            foreach ($files as $name => $bytes) {
                $name === 'recipe.json' || $put($before.$name, $bytes);
            }
            $isPackage = $delivery->isPackage();
            ! $isPackage || $put($before.'package.zip', Package::zip($files, $delivery, $context));
            $deliveries[] = [
                'name' => $delivery->name(), 'for' => $delivery->receiver(), 'report' => [$before.'report.html', $before.'report.pdf'], ...($isPackage ? ['package' => $before.'package.zip'] : []),
                'files' => array_map(fn (array $file) => ['name' => $before.$file['name'], 'size' => $file['size'], 'sha256' => $file['sha256']], $delivery->files()),
            ];
        }

        return $deliveries;
    }

    /** @param  list<array<string, mixed>>  $steps */
    private static function context(array $steps, Placement $frame): HandoverContext
    {
        $of = fn (string $key): array => array_merge(...array_map(fn (array $step) => ((array) $step['after'])[$key] ?? [], $steps));
        $labels = array_column(Catalogue::describe(), 'label', 'name');

        return new HandoverContext(
            new \DateTimeImmutable('now', new \DateTimeZone('UTC')), null, $frame != Placement::of(1.0, RigidTransform::identity()),
            array_map(fn (array $step) => ['label' => $labels[$step['op']], 'what' => (string) ($step['summary'] ?? ''), 'notes' => $step['notes']], $steps),
            $of('measurements'), $of('comparisons'), Version::NUMBER,
        );
    }
}
