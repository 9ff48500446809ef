<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Foundation\Format;

/** The brief's lines against the figures of a body: each kept or not, with the figure and the operation that would fix it. */
final class ReadyCard
{
    /** @param  list<array{key: string, label: string, state: string, figure: string, fix: string|null}>  $lines */
    public static function isReady(array $lines): bool
    {
        return array_filter($lines, fn (array $line) => $line['state'] !== 'good') === [];
    }

    /**
     * @param  array<string, mixed>|null  $figures  as Figures::of() gave them; null while there is no mesh
     * @param  array{by: string, at: string}|null  $scale  who confirmed the scale
     * @param  bool  $oriented  a frame was set
     * @return list<array{key: string, label: string, state: string, figure: string, fix: string|null}> state: good, warn or bad
     */
    public static function lines(Brief $brief, ?array $figures, ?array $scale, bool $oriented): array
    {
        $line = fn (string $key, string $label, ?bool $good, string $figure, ?string $fix): array => ['key' => $key, 'label' => $label, 'state' => $good === null ? 'warn' : ($good ? 'good' : 'bad'), 'figure' => $figure, 'fix' => $good === true ? null : $fix];
        $scaleLine = $line('scale', 'To scale', $scale !== null, $scale !== null ? 'by '.$scale['by'] : 'not confirmed', 'confirm-scale');
        if ($figures === null) {
            return [
                $line('closed', 'Closed', false, 'no mesh yet', 'fuse'), $line('sound', 'Sound', false, 'no mesh yet', 'fuse'), $scaleLine,
                $line('oriented', 'Oriented', false, 'no mesh yet', 'fuse'), $line('light', 'Light enough', false, 'no mesh yet', 'fuse'),
                $line('faithful', 'Faithful', false, 'no mesh yet', 'fuse'), $line('measured', 'Measured', false, 'no mesh yet', 'fuse'),
            ];
        }
        $holes = (int) $figures['holeCount'];
        $meant = (int) ($figures['leftOpen'] ?? 0);
        // With every rim left open on purpose only the rims keep it from being closed.
        $closed = $figures['closed'] || ($meant > 0 && $meant === $holes && $figures['faults']['nonManifoldEdges'] + $figures['faults']['nonManifoldVertices'] + $figures['faults']['inconsistentEdges'] === 0);
        $rims = $holes === 0 ? ($figures['closed'] ? 'no rims' : 'not closed') : ($holes === 1 ? '1 rim' : "$holes rims");
        $faults = (int) $figures['faultCount'];
        $faces = (int) $figures['faces'];
        $p95 = $figures['distance']['p95'] ?? null;
        $measured = (float) $figures['measured'];

        return [
            $line('closed', 'Closed', ! $brief->closed || $closed, $meant === 0 ? $rims : ($meant === $holes ? "$rims, as wanted" : "$rims, $meant wanted"), 'fill-holes'),
            $line('sound', 'Sound', $faults === 0 ? true : ($faults < 200 && $closed ? null : false), $faults === 1 ? '1 fault' : "$faults faults", $figures['pieces'] > 1 ? 'keep-pieces' : 'repair'),
            $scaleLine,
            $line('oriented', 'Oriented', $oriented, $oriented ? strtoupper($brief->up).' is up' : 'no frame', 'set-frame'),
            $line('light', 'Light enough', $faces <= $brief->faceBudget, Format::count($faces).' / '.Format::count($brief->faceBudget), 'decimate'),
            $line('faithful', 'Faithful', $p95 === null ? null : $p95 <= $brief->toleranceMm, $p95 === null ? 'no raw points' : '95 % within '.Format::mm($p95), $p95 === null ? null : 'register'),
            $line('measured', 'Measured', $measured >= $brief->leastMeasured, number_format(100 * $measured, 1).' %', 'fuse'),
        ];
    }
}
