#!/usr/bin/guile
!#
(use-modules (srfi srfi-1) (ice-9 format))
(define unit "mm")
(define sizes '(1 2 3))
;; Says it.
(define (label what)
  "Says it."
  (format #f "~a in ~a ~a" what unit (fold + 0 sizes)))
(define* (all #:optional (n 2)) #| (define (no) 1) |#
  (list (label "dome") (even-deep? n)))
(define (even-deep? n) (if (= n 0) #t (odd-deep? (- n 1))))
(define (odd-deep? n) (if (= n 0) #f (even-deep? (- n 1))))
