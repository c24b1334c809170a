{{-- {{ $title }} <img data-sarvel="badge" src="../masters/seal.png"> --}}
@php
  $markup = "<img data-sarvel='badge' src='../masters/seal.png'>";
@endphp
@foreach ($items as $item)
<p><img data-sarvel="banner" src="../masters/gull.jpg" alt="{{ $item }}"> @php($last = $item)</p>
@endforeach
