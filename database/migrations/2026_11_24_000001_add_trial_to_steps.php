<?php

declare(strict_types=1);

use Illuminate\Database\Migrations\Migration;
use Illuminate\Database\Schema\Blueprint;
use Illuminate\Support\Facades\Schema;

return new class extends Migration
{
    public function up(): void
    {
        Schema::table('steps', fn (Blueprint $table) => $table->boolean('trial')->default(false));
    }

    public function down(): void
    {
        Schema::table('steps', fn (Blueprint $table) => $table->dropColumn('trial'));
    }
};
