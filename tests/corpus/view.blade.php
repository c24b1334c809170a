{{-- <img data-sarvel="badge" src="../masters/seal.png"> --}}
@if ($a > $b)
  <img @class(['wide' => $a > $b]) data-sarvel="banner" src="../masters/gull.jpg" alt="{{ $titles["main"] }}" @if ($a > 1) id="x" @endif>
@endif
@verbatim <img data-sarvel="badge" src="../masters/seal.png"> @endverbatim
