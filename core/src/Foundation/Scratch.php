<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

/**
 * A folder for what does not fit in memory, among the machine's temporary files (TMPDIR); gone with the object that stands for it. Forked children may write and read in it, and only the process
 * that made it removes it. What a killed process left goes with sweep().
 */
final class Scratch
{
    private readonly string $folder;

    private readonly int $owner;

    /**
     * Makes the folder.
     *
     * @throws UnsuitableInput when it cannot be made
     */
    public function __construct()
    {
        $this->owner = (int) getmypid();
        $this->folder = sys_get_temp_dir()."/emberstone-scratch-$this->owner-".bin2hex(random_bytes(6));
        if (! @mkdir($this->folder, 0700)) {
            throw UnsuitableInput::because("$this->folder cannot be made: points that do not fit in memory go there. Set TMPDIR to a folder that may be written to.");
        }
    }

    /** Removes the folder and all in it, in the process that made it. */
    public function __destruct()
    {
        if ($this->owner === getmypid()) {
            self::remove($this->folder);
        }
    }

    /**
     * Writes a file, in the place of one of that name.
     *
     * @throws UnsuitableInput when the disk is full
     */
    public function put(string $name, string $bytes): void
    {
        if (@file_put_contents("$this->folder/$name", $bytes) !== strlen($bytes)) {
            throw UnsuitableInput::because(sprintf('%s has no room for %.0f MB of points on their way; free some of that disk, or set TMPDIR to a folder on a larger one.', dirname($this->folder), strlen($bytes) / 1e6));
        }
    }

    /** Whether there is a file of that name. */
    public function has(string $name): bool
    {
        return is_file("$this->folder/$name");
    }

    /**
     * The bytes of a file.
     *
     * @throws UnsuitableInput when it is not there any more
     */
    public function get(string $name): string
    {
        $bytes = @file_get_contents("$this->folder/$name");

        return is_string($bytes) ? $bytes : throw UnsuitableInput::because("$this->folder/$name is gone, which this step was still to read; run it again.");
    }

    /** Removes folders whose process was killed before it could. */
    public static function sweep(): void
    {
        foreach (glob(sys_get_temp_dir().'/emberstone-scratch-*', GLOB_ONLYDIR) ?: [] as $folder) {
            if (preg_match('/-(\d+)-[0-9a-f]{12}$/', $folder, $found) === 1 && ! is_dir("/proc/$found[1]")) {
                self::remove($folder);
            }
        }
    }

    private static function remove(string $folder): void
    {
        array_map(unlink(...), glob("$folder/*") ?: []);
        @rmdir($folder);
    }
}
