<?php

declare(strict_types=1);

namespace App\Services;

/** What a browser says of itself, in words. */
final class BrowserName
{
    /** @return string a browser and a system, such as "Firefox on Linux" */
    public static function of(string $agent): string
    {
        $first = function (array $names, string $other) use ($agent): string {
            foreach ($names as $sign => $name) {
                if (str_contains($agent, $sign)) {
                    return $name;
                }
            }

            return $other;
        };
        // Each says the names of those before it as well: the first that fits here is the right one.
        $browser = $first(['Edg/' => 'Edge', 'OPR/' => 'Opera', 'Firefox/' => 'Firefox', 'Chrome/' => 'Chrome', 'Safari/' => 'Safari'], 'A browser');
        $system = $first(['Android' => 'Android', 'iPhone' => 'iPhone', 'iPad' => 'iPad', 'Windows' => 'Windows', 'Mac OS X' => 'macOS', 'Linux' => 'Linux'], 'another system');

        return "$browser on $system";
    }
}
