<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Dompdf\Dompdf;
use Dompdf\Options;

/** A report as a PDF of A4 pages, numbered. */
final class ReportPdf
{
    /**
     * @param  string  $html  of ReportPage
     * @param  \DateTimeImmutable  $at  its date: the same page of the same date is the same to the bit
     */
    public static function of(string $html, \DateTimeImmutable $at): string
    {
        // Sizes of letters are kept there, so that packages stay as they were installed.
        $folder = sys_get_temp_dir().'/emberstone-report-'.bin2hex(random_bytes(8));
        mkdir($folder, 0700);
        try {
            class_exists(ReportCanvas::class);
            $pdf = new Dompdf(new Options([
                'pdfBackend' => ReportCanvas::class,
                'isRemoteEnabled' => false, 'isPhpEnabled' => false, 'isJavascriptEnabled' => false, 'defaultFont' => 'DejaVu Sans', 'tempDir' => $folder, 'fontCache' => $folder, 'chroot' => [$folder],
            ]));
            $pdf->loadHtml($html, 'UTF-8');
            $pdf->setPaper('A4');
            $pdf->render();
            $time = $at->setTimezone(new \DateTimeZone('UTC'))->format("YmdHis+00'00'");
            $pdf->addInfo('CreationDate', "D:$time");
            $pdf->addInfo('ModDate', "D:$time");
            $canvas = $pdf->getCanvas();
            if ($canvas instanceof ReportCanvas) {
                $canvas->get_cpdf()->fileIdentifier = md5($html.$time);
            }
            $canvas->page_text(520, 812, '{PAGE_NUM} of {PAGE_COUNT}', $pdf->getFontMetrics()->getFont('DejaVu Sans') ?? '', 7, [0.42, 0.37, 0.34]);

            return (string) $pdf->output();
        } finally {
            array_map(unlink(...), glob("$folder/*") ?: []);
            rmdir($folder);
        }
    }
}
