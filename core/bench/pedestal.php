<?php

declare(strict_types=1);

// One line of figures for bin/bench: php core/bench/pedestal.php FOLDER SEED
require __DIR__.'/../../vendor/autoload.php';

use Emberstone\Core\Geometry\RigidTransform;

[, $folder, $seed] = $argv;
$report = json_decode((string) file_get_contents("$folder/r$seed/report.json"), true);
$truth = json_decode((string) file_get_contents("$folder/s$seed/truth.json"), true);
$distance = json_decode((string) file_get_contents("$folder/c$seed.json"), true);
$worst = 0.0;
foreach ($report['passes'] as $k => $pass) {
    foreach ([-60.0, 60.0] as $x) {
        foreach ([-35.0, 35.0] as $y) {
            foreach ([0.0, 79.0] as $z) {
                $found = RigidTransform::fromMatrix($pass['transform'])->point(RigidTransform::fromMatrix($truth['passes'][$k]['pose'])->inverse()->point([$x, $y, $z]));
                $worst = max($worst, sqrt(($found[0] - $x) ** 2 + ($found[1] - $y) ** 2 + ($found[2] - $z) ** 2));
            }
        }
    }
}
$body = $report['bodies'][0];
$bore = end($report['steps'])['after']['datum'];
[$dx, $dy, $dz] = $bore['direction'];
$t = -$bore['origin'][1] / $dy;
printf(
    "seed %d: %.1f s, %d MB | pose error %.3f mm | closed %s, %d piece, genus %d, %d self-intersections | rms %.3f p95 %.3f mm | volume %+.3f %% | filled %.1f %% | bore %.3f mm, axis off %.3f mm and %.3f deg\n",
    $seed, $report['seconds'], $report['peakMemoryMb'], $worst, $body['closed'] ? 'yes' : 'NO', $body['pieces'], $body['genus'], $body['faults']['selfIntersections'],
    $distance['rms'], $distance['p95'], 100 * (($body['volume'] ?? 0) / $truth['volume'] - 1), 100 * $body['evidence']['filled'],
    2 * $bore['radius'], hypot($bore['origin'][0] + $t * $dx, $bore['origin'][2] + $t * $dz - 52.0), rad2deg(acos(min(1.0, abs($dy)))),
);
echo implode(', ', array_map(fn (array $step) => "{$step['op']} {$step['seconds']} s", $report['steps'])), "\n";
