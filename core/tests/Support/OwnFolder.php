<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Support;

use PHPUnit\Framework\Attributes\After;
use PHPUnit\Framework\Attributes\Before;

/** A folder of its own for each test, gone after it. */
trait OwnFolder
{
    private string $folder;

    #[Before]
    protected function makeFolder(): void
    {
        $this->folder = sys_get_temp_dir().'/emberstone-'.bin2hex(random_bytes(6));
        mkdir($this->folder);
    }

    #[After]
    protected function removeFolder(): void
    {
        exec('rm -rf '.escapeshellarg($this->folder));
    }

    /** @return string where the file is */
    private function put(string $name, string $bytes): string
    {
        file_put_contents("$this->folder/$name", $bytes);

        return "$this->folder/$name";
    }
}
