<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use Emberstone\Core\Cloud\PointCloud;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Rigs\Part;
use Emberstone\Core\Rigs\Rig;

/** Simulated captures, each made once for all tests: by rig, part, number, seed and the code that makes them. */
final class Captures
{
    private static ?string $code = null;

    /** @return array{cloud: PointCloud, pose: RigidTransform} */
    public static function of(Rig $rig, Part $part, int $index, int $seed): array
    {
        self::$code ??= md5(implode(' ', array_map(md5_file(...), [__FILE__, ...glob(__DIR__.'/*Stone.php') ?: [], ...glob(__DIR__.'/../../src/{Rigs,Cloud,Geometry,Linear}/*.php', GLOB_BRACE) ?: []])));
        $folder = dirname(__DIR__, 3).'/var/test-captures';
        $file = $folder.'/'.md5(serialize([self::$code, $rig, $part, $index, $seed]));
        if (is_file($file)) {
            return unserialize((string) file_get_contents($file));
        }
        $capture = $rig->capture($part, $index, $seed);
        is_dir($folder) || @mkdir($folder, 0777, true);
        // Written beside and renamed: another process may look at the same time.
        file_put_contents("$file.".getmypid(), serialize($capture));
        rename("$file.".getmypid(), $file);

        return $capture;
    }
}
