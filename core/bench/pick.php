<?php

declare(strict_types=1);

// What a request does with a click on a body of 4 M faces: 3,000 vertices and an area of some 5,000 faces. Without the JIT, as web requests run: php core/bench/pick.php BLOB
require __DIR__.'/../../vendor/autoload.php';

use Emberstone\Core\Datums\Spread;
use Emberstone\Core\Exchange\Blob;
use Emberstone\Core\Exchange\OpenBlob;

// In the web server classes stand compiled in the opcache.
array_map(class_exists(...), [OpenBlob::class, Blob::class, Spread::class]);
memory_reset_peak_usage();
$before = memory_get_usage();
$start = microtime(true);
$blob = OpenBlob::file($argv[1]);
for ($k = 0; $k < 3000; $k++) {
    $blob->position(400_000 + 7 * $k);
}
$area = Spread::from($blob, intdiv($blob->head['faces'], 3), M_PI / 6, false, 5000);
printf("{\"pick\": \"%d faces of %d\", \"ms\": %.0f, \"memoryMb\": %.1f}\n", count($area['faces']), $blob->head['faces'], 1e3 * (microtime(true) - $start), (memory_get_peak_usage() - $before) / 1e6);
