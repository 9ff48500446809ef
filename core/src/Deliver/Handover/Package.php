<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Emberstone\Core\Foundation\UnsuitableInput;
use ZipArchive;

/** A delivery as one zip: its files, the report, the recipe where there is one, and a manifest with the SHA-256 of each. The same delivery is the same zip, to the bit. */
final class Package
{
    public const MANIFEST = 'manifest.json';

    /**
     * Everything that belongs to a delivery.
     *
     * @param  string|null  $recipe  the steps as JSON
     * @return array<string, string> bytes by name
     */
    public static function files(HandedOver $delivery, HandoverContext $context, ?string $recipe): array
    {
        $html = ReportPage::html($delivery, $context);
        $files = ['report.html' => $html, 'report.pdf' => ReportPdf::of($html, $context->at)];
        foreach ($delivery->files() as $file) {
            $files[$file['name']] = (string) base64_decode($file['bytes'], true);
        }

        return $recipe === null ? $files : $files + ['recipe.json' => $recipe];
    }

    /**
     * @param  array<string, string>  $files  bytes by name
     * @return string the bytes of a zip
     *
     * @throws UnsuitableInput when it cannot be written
     */
    public static function zip(array $files, HandedOver $delivery, HandoverContext $context): string
    {
        $sums = [];
        foreach ($files as $name => $bytes) {
            $sums[] = ['name' => $name, 'size' => strlen($bytes), 'sha256' => hash('sha256', $bytes)];
        }
        $files[self::MANIFEST] = json_encode([
            'title' => $delivery->title(), 'at' => $context->at->format(DATE_ATOM), 'by' => $context->by, 'for' => $delivery->receiver(), 'unit' => $delivery->brief()->unit->value, 'up' => $delivery->brief()->up,
            'software' => "Emberstone $context->version", 'files' => $sums,
        ], JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR)."\n";
        $path = sys_get_temp_dir().'/emberstone-package-'.bin2hex(random_bytes(8)).'.zip';
        $zip = new ZipArchive;
        if ($zip->open($path, ZipArchive::CREATE) !== true) {
            throw UnsuitableInput::because('The package cannot be written: the folder for temporary files is full or closed. Free some space and try again.');
        }
        try {
            foreach ($files as $name => $bytes) {
                $zip->addFromString((string) $name, $bytes);
                $zip->setMtimeName((string) $name, $context->at->getTimestamp());
            }
            if (! $zip->close()) {
                throw UnsuitableInput::because('The package cannot be written: the folder for temporary files is full. Free some space and try again.');
            }

            return (string) file_get_contents($path);
        } finally {
            @unlink($path);
        }
    }
}
