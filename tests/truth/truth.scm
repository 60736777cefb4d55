;; What Guile's own reader sees in a file: each definition of a procedure or of syntax at the outermost level, with
;; its line and its parameters.
;;
;;   guile --no-auto-compile truth.scm FILE      prints: NAME <tab> LINE <tab> PARAMETERS
(use-modules (ice-9 match))
(setlocale LC_ALL "C.UTF-8")
(fluid-set! %default-port-encoding "UTF-8")

(define (parameters formals)
  (match formals
    (() '())
    ((? symbol? rest) (list rest))
    (((? keyword?) . more) (parameters more))
    (((? symbol? name) . more) (cons name (parameters more)))
    ((((? symbol? name) . _) . more) (cons name (parameters more)))
    (_ '())))

(define told (make-hash-table)) ; of several definitions the last one counts
(define (tell name form formals)
  (hashq-set! told name
              (format #f "~a\t~a\t~a\n" name (1+ (or (source-property form 'line) -1))
                      (string-join (map symbol->string (parameters formals))))))

(define (visit form)
  (match form
    (((or 'define 'define* 'define-public 'define*-public 'define-inlinable) ((? symbol? name) . formals) . _)
     (tell name form formals))
    (((or 'define 'define-public) (? symbol? name) ((or 'lambda 'lambda*) formals . _))
     (tell name form formals))
    (((or 'define 'define-public) (? symbol? name) ((or 'case-lambda 'case-lambda*) . _)) (tell name form '()))
    (((or 'define-syntax 'define-syntax-rule 'define-syntax-parameter) (? symbol? name) . _) (tell name form '()))
    (('define-syntax-rule ((? symbol? name) . _) . _) (tell name form '()))
    (('begin . inner) (for-each visit inner))
    (('eval-when _ . inner) (for-each visit inner))
    (_ #f)))

(define forms
  (call-with-input-file (cadr (command-line))
    (lambda (port)
      (let next ((forms '()))
        (let ((form (catch #t (lambda () (read port)) (lambda _ 'broken))))
          (cond ((eof-object? form) (reverse forms))
                ((eq? form 'broken) '())
                (else (next (cons form forms)))))))))
(for-each visit forms)
(hash-for-each (lambda (name line) (display line)) told)
