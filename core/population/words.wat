;; Whole blocks of words joined and counted sixteen bytes at a time; see words.ts.
;; Addresses and lengths are in bytes, lengths a multiple of 16 and not 0.
(module
  (memory (export "memory") 16)

  (func (export "and") (param $into i32) (param $left i32) (param $right i32) (param $bytes i32)
    (local $at i32)
    (loop $next
      (v128.store (i32.add (local.get $into) (local.get $at))
        (v128.and
          (v128.load (i32.add (local.get $left) (local.get $at)))
          (v128.load (i32.add (local.get $right) (local.get $at)))))
      (br_if $next (i32.lt_u (local.tee $at (i32.add (local.get $at) (i32.const 16))) (local.get $bytes)))))

  (func (export "andNot") (param $into i32) (param $left i32) (param $right i32) (param $bytes i32)
    (local $at i32)
    (loop $next
      (v128.store (i32.add (local.get $into) (local.get $at))
        (v128.andnot
          (v128.load (i32.add (local.get $left) (local.get $at)))
          (v128.load (i32.add (local.get $right) (local.get $at)))))
      (br_if $next (i32.lt_u (local.tee $at (i32.add (local.get $at) (i32.const 16))) (local.get $bytes)))))

  (func (export "or") (param $into i32) (param $left i32) (param $right i32) (param $bytes i32)
    (local $at i32)
    (loop $next
      (v128.store (i32.add (local.get $into) (local.get $at))
        (v128.or
          (v128.load (i32.add (local.get $left) (local.get $at)))
          (v128.load (i32.add (local.get $right) (local.get $at)))))
      (br_if $next (i32.lt_u (local.tee $at (i32.add (local.get $at) (i32.const 16))) (local.get $bytes)))))

  (func (export "orNot") (param $into i32) (param $left i32) (param $right i32) (param $bytes i32)
    (local $at i32)
    (loop $next
      (v128.store (i32.add (local.get $into) (local.get $at))
        (v128.or
          (v128.load (i32.add (local.get $left) (local.get $at)))
          (v128.not (v128.load (i32.add (local.get $right) (local.get $at))))))
      (br_if $next (i32.lt_u (local.tee $at (i32.add (local.get $at) (i32.const 16))) (local.get $bytes)))))

  (func (export "xor") (param $into i32) (param $left i32) (param $right i32) (param $bytes i32)
    (local $at i32)
    (loop $next
      (v128.store (i32.add (local.get $into) (local.get $at))
        (v128.xor
          (v128.load (i32.add (local.get $left) (local.get $at)))
          (v128.load (i32.add (local.get $right) (local.get $at)))))
      (br_if $next (i32.lt_u (local.tee $at (i32.add (local.get $at) (i32.const 16))) (local.get $bytes)))))

  (func (export "not") (param $into i32) (param $of i32) (param $bytes i32)
    (local $at i32)
    (loop $next
      (v128.store (i32.add (local.get $into) (local.get $at))
        (v128.not (v128.load (i32.add (local.get $of) (local.get $at)))))
      (br_if $next (i32.lt_u (local.tee $at (i32.add (local.get $at) (i32.const 16))) (local.get $bytes)))))

  ;; How many bits are set in both.
  (func (export "countBoth") (param $left i32) (param $right i32) (param $bytes i32) (result i32)
    (local $at i32) (local $sums v128)
    (loop $next
      (local.set $sums
        (i32x4.add (local.get $sums)
          (i32x4.extadd_pairwise_i16x8_u
            (i16x8.extadd_pairwise_i8x16_u
              (i8x16.popcnt
                (v128.and
                  (v128.load (i32.add (local.get $left) (local.get $at)))
                  (v128.load (i32.add (local.get $right) (local.get $at)))))))))
      (br_if $next (i32.lt_u (local.tee $at (i32.add (local.get $at) (i32.const 16))) (local.get $bytes))))
    (i32.add
      (i32.add (i32x4.extract_lane 0 (local.get $sums)) (i32x4.extract_lane 1 (local.get $sums)))
      (i32.add (i32x4.extract_lane 2 (local.get $sums)) (i32x4.extract_lane 3 (local.get $sums))))))
