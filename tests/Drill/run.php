<?php

declare(strict_types=1);

// Called by bin/drill: php run.php ADDRESS MINUTES SEED MAY-FILL-THE-DISK. Works on the installation as two people at two browsers would, breaks it meanwhile, and checks at the end
// that every step has settled with a word, every blob is intact, steps computed again give the same bytes, deleted projects hold no space, and no answer was an error of ours.
require __DIR__.'/../../vendor/autoload.php';

use Illuminate\Contracts\Console\Kernel;
use Tests\Drill\Drill;

[, $address, $minutes, $seed, $mayFill] = $argv;
$app = require __DIR__.'/../../bootstrap/app.php';
$app->make(Kernel::class)->bootstrap();
ini_set('memory_limit', '-1');
$drill = new Drill($address, (int) $seed, (string) getenv('EMBERSTONE_VAR'), $mayFill === '1');
exit($drill->run(60.0 * (float) $minutes) ? 0 : 1);
