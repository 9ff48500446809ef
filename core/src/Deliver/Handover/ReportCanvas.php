<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Dompdf\Adapter\CPDF;

/** The pages of a PDF, on which pictures of three colours are laid as they are: the package alone would want a PHP extension for pictures to look at them first. */
final class ReportCanvas extends CPDF
{
    /**
     * @param  string  $img  path of a PNG without transparency, or of an SVG
     * @param  float  $x  points
     * @param  float  $y
     * @param  float  $w
     * @param  float  $h
     * @param  string  $resolution
     */
    public function image($img, $x, $y, $w, $h, $resolution = 'normal'): void
    {
        $bytes = (string) file_get_contents($img);
        if (str_starts_with($bytes, "\x89PNG")) {
            $this->_pdf->addPngFromBuf($bytes, $img, $x, $this->y($y) - $h, $w, $h);
        } else {
            parent::image($img, $x, $y, $w, $h, $resolution);
            // A drawing leaves its colours behind, and the pages know nothing of that.
            $this->_pdf->setColor([0.0, 0.0, 0.0], true);
            $this->_pdf->setStrokeColor([0.0, 0.0, 0.0], true);
        }
    }
}
